"""Exercises of coaches' own say how the bar meets the body, and who has climbed is on the ladder."""

from django.db import migrations


def to_words(apps, schema_editor):
    from atleta.coaching import load_library

    ships = load_library()
    for row in apps.get_model("plans", "Shelf").objects.filter(data__isnull=False):
        held = row.data.get("contact")
        if not isinstance(held, str):
            # What is not known to be without contact is taken for work with it.
            shipped = ships.get(row.exercise)
            row.data["contact"] = shipped.contact if shipped else "strike"
            row.save(update_fields=["data"])
    on = apps.get_model("plans", "OnLadder").objects
    for climb in apps.get_model("plans", "Climb").objects.order_by("passed_on"):
        on.get_or_create(athlete_id=climb.athlete_id, ladder=climb.ladder, defaults={"since": climb.passed_on})


def to_flags(apps, schema_editor):
    for row in apps.get_model("plans", "Shelf").objects.filter(data__isnull=False):
        row.data["contact"] = row.data.get("contact") != "none"
        row.save(update_fields=["data"])


class Migration(migrations.Migration):
    dependencies = [("plans", "0004_excuse_onladder_ownladder_and_more")]

    operations = [migrations.RunPython(to_words, to_flags)]
