"""Changes say when they were made, undone or done again last, so that an undoing is noticed like any other change."""

from django.db import migrations, models


def as_made(apps, schema_editor):
    apps.get_model("reviews", "Correction").objects.update(turn=models.F("pk"))


class Migration(migrations.Migration):
    dependencies = [("reviews", "0014_quick_documents")]

    operations = [
        migrations.AddField("correction", "turn", models.PositiveBigIntegerField(db_index=True, default=0)),
        migrations.RunPython(as_made, migrations.RunPython.noop),
    ]
