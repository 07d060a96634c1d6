from __future__ import annotations

from typing import Any

from django.db import migrations, models


def share_out(apps: Any, schema_editor: Any) -> None:
    """A verdict held for every lift of its clip. Now what was found stands on each lift that it was found on, what a coach saw on the lift
    that it was seen in."""
    verdicts = apps.get_model("reviews", "Verdict").objects
    for verdict in verdicts.filter(clip__analysis__isnull=False).select_related("clip__analysis"):
        first, *others = _places(verdict, verdict.clip.analysis.document["lifts"]) or [0]
        verdict.place = first
        verdict.save(update_fields=["place"])
        for place in others:
            verdict.pk, verdict.place = None, place
            verdict.save(force_insert=True)


def _places(verdict: Any, lifts: list[dict[str, Any]]) -> list[int]:
    if verdict.decision == "added" and verdict.frame is not None:
        return [place for place, lift in enumerate(lifts) if lift["start_frame"] <= verdict.frame <= lift["end_frame"]][:1]
    found = ("fault", "watch", "seen")
    return [
        place
        for place, lift in enumerate(lifts)
        if any(row["fault"] == verdict.fault and row["level"] in found for row in lift["findings"])
    ]


class Migration(migrations.Migration):
    dependencies = [("reviews", "0009_looks_of_spoken_notes")]

    operations = [
        migrations.RemoveConstraint(model_name="verdict", name="one_verdict_per_fault"),
        migrations.AddField(model_name="verdict", name="place", field=models.PositiveSmallIntegerField(default=0)),
        migrations.AddConstraint(
            model_name="verdict",
            constraint=models.UniqueConstraint(fields=("clip", "place", "fault"), name="one_verdict_per_fault_of_a_lift"),
        ),
        migrations.RunPython(share_out, migrations.RunPython.noop),
    ]
