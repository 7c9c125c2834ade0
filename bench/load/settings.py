"""The application's own settings, with a clock on every answer."""

from calmsquare.settings import *  # noqa: F403
from calmsquare.settings import MIDDLEWARE as ITS_OWN

MIDDLEWARE = ["bench.load.clock.Clock", *ITS_OWN]
