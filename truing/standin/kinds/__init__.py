"""How the simulated machine answers each kind of check: one module each, named by its key."""
