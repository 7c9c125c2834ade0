"""What was kept before subjects, lessons and needles is read into them."""

from django.db import migrations, models
from django.db.models import F, Value
from django.db.models.functions import Concat


def subjects(apps, schema_editor):
    Round = apps.get_model("logbook", "Round")
    Round.objects.filter(subject="").update(subject="machine")
    rest = Round.objects.exclude(subject="machine")
    rest.update(subject=Concat(Value("part:"), F("subject")))


def lessons(apps, schema_editor):
    """As format 1 would have kept them: the record's own ladder reads them on."""
    Round = apps.get_model("logbook", "Round")
    judged = Round.objects.exclude(outcome=None).only("outcome", "setup", "instrument_id")
    for round in judged.iterator(chunk_size=200):
        finding = (round.outcome or {}).get("finding")
        # what is older than the formats stays in the logbook, and teaches nothing
        if not finding or "spread" not in finding or "quantities" not in finding:
            continue
        round.lesson = {
            "way": (round.setup or {}).get("way", ""),
            "quantities": [
                {"key": q["key"], "estimate": q["estimate"]} for q in finding["quantities"]
            ],
            "instrument": str(round.instrument_id or ""),
            "spread": finding["spread"],
        }
        round.summary = summary_of(finding, round.outcome.get("judgement") or {"judged": []})
        round.read_at = round.readings.aggregate(first=models.Min("read_at"))["first"]
        round.save(update_fields=["lesson", "summary", "read_at"])


def summary_of(finding, judgement):
    """In the shape of format 2, which is the first that has it."""
    judged = {j["quantity"]: j for j in judgement["judged"]}
    values = [
        {
            "key": q["key"],
            "sort": q["tolerance_key"],
            "label": q["label"],
            "words": q["words"],
            "verdict": judged[q["key"]]["verdict"],
            "value": q["estimate"]["value"],
            "limit": judged[q["key"]]["tolerance"],
        }
        for q in finding["quantities"]
        if q["key"] in judged
    ]
    sentence = judgement.get("sentence")
    return {"shape": "summary", "format": 2, "sentence": sentence, "values": values}


def places(apps, schema_editor):
    """The place of an answer stood where a length stands."""
    Reading = apps.get_model("logbook", "Reading")
    answers = Reading.objects.exclude(reads="length").exclude(shown_mm=None)
    answers.update(x_mm=F("shown_mm"), shown_mm=None)


def needles(apps, schema_editor):
    Move = apps.get_model("logbook", "Move")
    for move in Move.objects.exclude(nipped="", tight="").iterator():
        told = (("nipped", move.nipped), ("tight", move.tight))
        targets = (move.advised or {}).get("targets") or [{"station": ""}]
        station = targets[0]["station"]
        move.needle = [{"state": s, "station": station, "text": t} for s, t in told if t]
        move.save(update_fields=["needle"])


class Migration(migrations.Migration):
    dependencies = [("logbook", "0004_subjects_and_lessons")]

    operations = [
        migrations.RunPython(subjects, migrations.RunPython.noop),
        migrations.RunPython(lessons, migrations.RunPython.noop),
        migrations.RunPython(places, migrations.RunPython.noop),
        migrations.RunPython(needles, migrations.RunPython.noop),
    ]
