"""What screens show: one call for each, joined from the apps below."""
