"""What an error of the machine does to the part that is made on it."""
