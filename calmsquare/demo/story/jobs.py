"""What the friends make: one job that fits, one that does not, and one that nobody knows yet."""

from __future__ import annotations

from datetime import timedelta
from uuid import uuid4

from django.utils import timezone

from calmsquare.demo.story.shed import Shed
from calmsquare.jobs.models import Making
from calmsquare.jobs.schemas import CameOutIn, MakingIn, MeasuredIn, NewJobIn
from calmsquare.jobs.services import make_job, mark_of, measured, start_making
from calmsquare.workshop.models import Machine
from truing.jobs.features import Hole, Job
from truing.jobs.starts import starting_jobs

BRACKET = Job(
    name="Bored bracket",
    material="aluminium",
    features=[
        Hole(
            name="the bore",
            depth_mm=20,
            cutter="boring",
            approach="one",
            upright_tol_mm=0.012,
            place_tol_mm=0.02,
            size_tol_mm=0.02,
        )
    ],
)


def jobs(shed: Shed) -> None:
    """Three jobs on three machines; the clock plate has been made once."""
    plate, dial, _ = starting_jobs()
    for spec, machine in ((plate, "Avocet"), (dial, "Curlew"), (BRACKET, "Dunlin")):
        on = Machine.objects.get(workshop=shed.workshop, name=machine)
        form = NewJobIn(id=uuid4(), spec=spec.model_dump(mode="json"), machines=[on.pk])
        job = make_job(shed.owner, shed.workshop.pk, form)
        if spec is plate:
            made = start_making(shed.maker, job.pk, MakingIn(id=uuid4(), machine_id=on.pk))
            Making.objects.filter(pk=made.pk).update(made_at=timezone.now() - timedelta(days=3))
            came = [
                MeasuredIn(feature=0, key="flat", text="0.004 mm"),
                MeasuredIn(feature=1, key="size_x", text="0.03 mm"),
                MeasuredIn(feature=1, key="size_y", text="0.09 mm"),
            ]
            note = "Pinned on the drilling jig; front to rear it would not go on."
            form_of = CameOutIn(measured=came, note=note, was=mark_of(made))
            measured(shed.maker, made.pk, form_of)
