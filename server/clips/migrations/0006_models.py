
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('clips', '0005_complexes'),
    ]

    operations = [
        migrations.AddField(
            model_name='clip',
            name='model_agreed',
            field=models.BooleanField(default=False),
        ),
        migrations.AddField(
            model_name='clip',
            name='model_name',
            field=models.CharField(blank=True, max_length=80),
        ),
    ]
