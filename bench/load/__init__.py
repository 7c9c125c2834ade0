"""Many people reading their indicators at once: how long they wait, and where the time goes."""
