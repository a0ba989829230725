import json

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


def gather(apps, schema_editor):  # type: ignore[no-untyped-def]
    """What earlier renders were asked for in columns is in their choices."""
    Render = apps.get_model("renders", "Render")
    for render in Render.objects.only("format", "scale", "loops", "document").iterator():
        usual = {"kind": "mp4", "scale": 1.0, "loops": 1}
        chosen = {"kind": render.format, "scale": render.scale, "loops": render.loops}
        render.choices = {name: value for name, value in chosen.items() if value != usual[name]}
        # What had nothing behind it was rendered on black where the format has no transparency.
        if render.format == "mp4" and json.loads(render.document).get("background") is None:
            render.choices["behind"] = "#000000"
        render.save(update_fields=["choices"])


class Migration(migrations.Migration):
    dependencies = [
        ("renders", "0003_deleted"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField("render", "choices", models.JSONField(default=dict)),
        migrations.RunPython(gather, migrations.RunPython.noop),
        migrations.RemoveField("render", "scale"),
        migrations.RemoveField("render", "loops"),
        migrations.CreateModel(
            "Preset",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=60)),
                ("choices", models.JSONField()),
                (
                    "owner",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="render_presets",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={
                "ordering": ["name"],
                "constraints": [models.UniqueConstraint(fields=("owner", "name"), name="a_preset_once")],
            },
        ),
    ]
