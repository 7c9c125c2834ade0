"""How fast it is, in ratios and medians; each file says what it measures."""

import calmsquare  # noqa: F401  what the server settles before numpy is loaded
