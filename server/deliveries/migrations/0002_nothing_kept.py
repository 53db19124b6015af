from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("deliveries", "0001_initial")]

    operations = [migrations.RemoveField(model_name="delivery", name="kept")]
