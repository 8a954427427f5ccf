import django.contrib.postgres.fields
import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

ROWS = """
INSERT INTO pipeline_stage (account_id, pipeline_id, name, position, means)
SELECT p.account_id, p.id, each.name, each.place - 1, ''
  FROM pipeline_pipeline p, unnest(p.stages) WITH ORDINALITY AS each (name, place)
    ON CONFLICT DO NOTHING
"""
BACK = """
UPDATE pipeline_pipeline p
   SET stages = ARRAY(SELECT s.name FROM pipeline_stage s WHERE s.pipeline_id = p.id ORDER BY s.position, s.id)
"""


class Migration(migrations.Migration):
    dependencies = [
        ("pipeline", "0001_initial"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="Stage",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=80)),
                ("position", models.PositiveSmallIntegerField()),
                ("means", models.CharField(blank=True, max_length=300)),
                ("rest_days", models.PositiveSmallIntegerField(null=True)),
                ("account", models.ForeignKey(db_index=False, on_delete=django.db.models.deletion.CASCADE, related_name="+", to="practice.account")),
                ("pipeline", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="rows", to="pipeline.pipeline")),
            ],
            options={"ordering": ["position", "id"]},
        ),
        migrations.AddConstraint(
            model_name="stage",
            constraint=models.UniqueConstraint(fields=("pipeline", "name"), name="stage_once_a_pipeline"),
        ),
        migrations.RunSQL(ROWS, BACK),
        migrations.RemoveField(model_name="pipeline", name="stages"),
        migrations.AlterField(
            model_name="stage",
            name="pipeline",
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="stages", to="pipeline.pipeline"),
        ),
        migrations.AddField(
            model_name="pipeline",
            name="reasons",
            field=django.contrib.postgres.fields.ArrayField(base_field=models.CharField(max_length=80), default=list, size=None),
        ),
        migrations.AddField(model_name="deal", name="expected_on", field=models.DateField(help_text="when it is thought to be won", null=True)),
        migrations.AddField(model_name="deal", name="closed_at", field=models.DateTimeField(null=True)),
        migrations.AddField(
            model_name="deal",
            name="why",
            field=models.CharField(blank=True, db_default="", help_text="for what reason it was lost", max_length=80),
        ),
        migrations.RunSQL("UPDATE pipeline_deal SET closed_at = since WHERE state <> 'open'", migrations.RunSQL.noop),
        migrations.AddIndex(
            model_name="deal",
            index=models.Index(fields=["account", "pipeline", "closed_at"], name="deal_closed"),
        ),
        migrations.CreateModel(
            name="DealMove",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("act", models.UUIDField()),
                ("at", models.DateTimeField()),
                ("was_stage", models.CharField(max_length=80)),
                ("was_state", models.CharField(max_length=4)),
                ("was_since", models.DateTimeField()),
                ("stage", models.CharField(max_length=80)),
                ("state", models.CharField(max_length=4)),
                ("taken_back_at", models.DateTimeField(null=True)),
                ("account", models.ForeignKey(db_index=False, on_delete=django.db.models.deletion.CASCADE, related_name="+", to="practice.account")),
                ("by", models.ForeignKey(db_index=False, on_delete=django.db.models.deletion.CASCADE, related_name="+", to=settings.AUTH_USER_MODEL)),
                ("deal", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="moves", to="pipeline.deal")),
            ],
        ),
        migrations.AddConstraint(
            model_name="dealmove",
            constraint=models.UniqueConstraint(fields=("act", "deal"), name="deal_moved_once_an_act"),
        ),
    ]
