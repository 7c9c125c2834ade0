"""What to do about a finding, and what the next readings should then be."""
