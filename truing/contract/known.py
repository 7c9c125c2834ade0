"""What other checks have found on the machine, for those that lean on it."""

from __future__ import annotations

from datetime import datetime

from pydantic import BaseModel

from truing.measure.estimate import Estimate
from truing.measure.verdict import Verdict


class Known(BaseModel):
    """The latest of another kind's rounds about a subject, with all that it found."""

    kind: str
    subject: str
    """As `Subject.text`."""
    at: datetime
    fresh: bool
    """Nothing that it rests on has been touched since."""
    verdict: Verdict
    values: dict[str, Estimate]
    limits: dict[str, float]
    """What each judged quantity was judged by."""
