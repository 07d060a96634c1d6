from django.db import migrations

from reviews.packed import NumbersField, packed


def pack(apps, schema_editor):
    """What was kept as text; and what clips tell that were measured before anything of them was kept."""
    kept = apps.get_model("reviews", "LiftNumbers")
    for row in kept.objects.iterator():
        row.packed = packed(row.numbers)
        row.save(update_fields=["packed"])
    for told in apps.get_model("reviews", "Analysis").objects.filter(clip__numbers__isnull=True).iterator(chunk_size=20):
        kept.objects.bulk_create(
            kept(
                clip_id=told.clip_id, place=place, kind=lift["kind"], made=lift.get("made"), numbers={},
                packed=packed({name: (one["value"], one["sd"]) for name, one in lift["measures"].items() if one["value"] is not None}),
            )
            for place, lift in enumerate(told.document.get("lifts", []))
        )  # fmt: skip


class Migration(migrations.Migration):

    dependencies = [
        ("reviews", "0012_revision"),
    ]

    operations = [
        migrations.AddField("liftnumbers", "packed", NumbersField(default=b""), preserve_default=False),
        migrations.RunPython(pack, migrations.RunPython.noop),
        migrations.RemoveField("liftnumbers", "numbers"),
        migrations.RenameField("liftnumbers", "packed", "numbers"),
        migrations.AlterField("liftnumbers", "numbers", NumbersField()),
    ]
