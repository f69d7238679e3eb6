"""Layers shared by clips, and decisions on several clips at once."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('clips', '0006_jobs'),
        ('outings', '0003_working_space'),
    ]

    operations = [
        migrations.AddField(
            model_name='clip',
            name='stand',
            field=models.JSONField(default=dict),
        ),
        migrations.AddField(
            model_name='clip',
            name='states',
            field=models.JSONField(default=dict),
        ),
        migrations.AddField(
            model_name='clip',
            name='trim',
            field=models.JSONField(default=dict),
        ),
        migrations.AlterField(
            model_name='gradeversion',
            name='clip',
            field=models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.CASCADE, related_name='versions', to='clips.clip'),
        ),
        migrations.CreateModel(
            name='Decision',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('change', models.CharField(max_length=200)),
                ('asked', models.JSONField(default=list)),
                ('given', models.JSONField(default=dict)),
                ('sentences', models.JSONField(default=list)),
                ('done', models.BooleanField(default=False)),
                ('taken_back', models.BooleanField(default=False)),
                ('created', models.DateTimeField(auto_now_add=True)),
                ('outing', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='decisions', to='outings.outing')),
            ],
            options={
                'ordering': ('-id',),
            },
        ),
        migrations.AddField(
            model_name='gradeversion',
            name='decision',
            field=models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='versions', to='clips.decision'),
        ),
        migrations.AddField(
            model_name='gradeversion',
            name='beside',
            field=models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='besides', to='clips.gradeversion'),
        ),
        migrations.CreateModel(
            name='SharedLayer',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('group', models.OneToOneField(blank=True, null=True, on_delete=django.db.models.deletion.CASCADE, related_name='layer', to='clips.lightgroup')),
                ('outing', models.OneToOneField(blank=True, null=True, on_delete=django.db.models.deletion.CASCADE, related_name='layer', to='outings.outing')),
                ('version', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='clips.gradeversion')),
            ],
        ),
        migrations.AddField(
            model_name='gradeversion',
            name='layer',
            field=models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.CASCADE, related_name='versions', to='clips.sharedlayer'),
        ),
        migrations.AddConstraint(
            model_name='gradeversion',
            constraint=models.CheckConstraint(condition=models.Q(('clip', None), ('layer', None), _connector='XOR'), name='version_of_clip_or_layer'),
        ),
        migrations.AddConstraint(
            model_name='sharedlayer',
            constraint=models.CheckConstraint(condition=models.Q(('outing', None), ('group', None), _connector='XOR'), name='layer_of_outing_or_light'),
        ),
    ]
