"""What lies on the bench: instruments, shims, and what is put into a spindle."""
