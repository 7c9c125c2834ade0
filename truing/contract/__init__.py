"""What a check is: what is stated, read, found, judged and advised, and how that is stored."""
