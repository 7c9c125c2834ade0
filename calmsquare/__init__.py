"""The application: accounts, the record, screens. The rules of the trade are in `truing`."""

import os

from calmsquare.memory import load_lightly

load_lightly()

# What is solved here is a few numbers wide. Threads that share so little wait for one another: on a
# machine that others keep busy one small inverse took a fifth of a second instead of 0.3 ms. It is
# read once, when numpy is loaded; whoever starts the server may set it otherwise.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
