"""Color profiles get a folder for each studio; a recipe's versions know the studio that they look into."""

import shutil
from typing import Any

import django.db.models.deletion
from django.db import migrations, models

from server.project.conf import conf


def take_along(apps: Any, schema_editor: Any) -> None:
    """Every studio keeps the profiles that its recipes name; the files that all shared go with those."""
    versions = apps.get_model("recipes", "RecipeVersion").objects
    versions.update(
        studio=models.Subquery(
            apps.get_model("recipes", "Recipe").objects.filter(versions=models.OuterRef("pk")).values("studio")[:1]
        )
    )
    named = versions.exclude(content__color__icc=None).values_list("studio", "content__color__icc").distinct()
    for studio, name in named.filter(content__color__icc__isnull=False):
        shared = conf.profiles / name
        if shared.is_file():
            (conf.profiles / str(studio)).mkdir(exist_ok=True)
            shutil.copyfile(shared, conf.profiles / str(studio) / name)


class Migration(migrations.Migration):
    dependencies = [("recipes", "0001_initial"), ("studios", "0001_initial")]

    operations = [
        migrations.AddField(
            "recipeversion",
            "studio",
            models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="+", to="studios.studio", null=True
            ),
        ),
        migrations.RunPython(take_along, migrations.RunPython.noop),
        migrations.AlterField(
            "recipeversion",
            "studio",
            models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="+", to="studios.studio"),
        ),
    ]
