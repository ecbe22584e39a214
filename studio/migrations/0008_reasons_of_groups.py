from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [
        ('studio', '0007_what_made_one_stop'),
    ]

    operations = [
        migrations.RenameField(model_name='group', old_name='said', new_name='reasons'),
    ]
