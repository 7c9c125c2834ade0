"""How fast this machine is just now: what other times are told beside."""

import time


def plain_loop() -> float:
    """Ten million additions, in s."""
    began = time.perf_counter()
    n = 0
    while n < 10_000_000:
        n += 1
    return time.perf_counter() - began
