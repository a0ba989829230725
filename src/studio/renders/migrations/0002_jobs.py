from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("renders", "0001_initial")]

    operations = [
        migrations.RenameField("render", "frames", "total"),
        migrations.AddField("render", "tries", models.PositiveIntegerField(default=0)),
        migrations.AlterField("render", "format", models.CharField(max_length=20)),
    ]
