
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('reviews', '0007_marks'),
    ]

    operations = [
        migrations.AddField(
            model_name='mark',
            name='ink',
            field=models.CharField(choices=[('white', 'White'), ('amber', 'Amber'), ('sky', 'Sky')], default='white', max_length=5),
        ),
        migrations.AddField(
            model_name='note',
            name='seconds',
            field=models.FloatField(null=True),
        ),
        migrations.AddField(
            model_name='note',
            name='shown',
            field=models.JSONField(default=list),
        ),
        migrations.AlterField(
            model_name='note',
            name='words',
            field=models.CharField(blank=True, max_length=500),
        ),
    ]
