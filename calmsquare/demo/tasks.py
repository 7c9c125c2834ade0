"""What is done about the demo by the clock, in a worker."""

from __future__ import annotations

from django.conf import settings
from procrastinate.contrib.django import app


@app.periodic(cron="*/5 * * * *")
@app.task(queue="programs", queueing_lock="sweep-sheds", pass_context=False)
def sweep_sheds(timestamp: int) -> None:
    """Sheds that are old, or too many for the room that they may take."""
    # tasks are looked for while the application starts
    from calmsquare.demo.sweeping import make_room, sweep

    if settings.DEMO:
        sweep(200)
        make_room()
