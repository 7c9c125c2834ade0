"""What an error of the machine does to the part that is made on it: every formula of that, and no
other room holds one. What a job needs of them is put together in `jobs/`."""
