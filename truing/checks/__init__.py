"""One package for each kind of check that is built, named by its key, all of the same shape."""
