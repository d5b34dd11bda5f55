import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("rendering", "0004_frames"), ("jobs", "0004_positions")]

    operations = [
        migrations.CreateModel(
            name="Thumbnail",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("colourway", models.CharField(blank=True, help_text="its key; none for as it is", max_length=60)),
                ("made_of", models.CharField(help_text="tells the state of everything it shows", max_length=64)),
                ("problem", models.TextField(blank=True, help_text="why there is no picture of that state")),
                (
                    "shot",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="thumbnails", to="jobs.shot"
                    ),
                ),
            ],
            options={
                "constraints": [
                    models.UniqueConstraint(fields=("shot", "colourway"), name="one_thumbnail_a_cell")
                ],
            },
        ),
    ]
