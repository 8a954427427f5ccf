"""The same steps as one procrastinate job each: `prepare N` makes the enrolments and their first jobs, `work` runs a
worker. A job reads its enrolment, notes the step and its reason and message, and asks for the next, in one
transaction; it decides nothing."""

import asyncio
import os
import sys

import procrastinate
import psycopg

STEPS = ("one", "mark", "ring", "day", "two", "more")
URL = os.environ["DATABASE_URL"]
app = procrastinate.App(connector=procrastinate.PsycopgConnector(conninfo=URL, max_size=4))


@app.task(name="step")
async def step(enrolment: int, number: int) -> None:
    connector = app.connector
    assert isinstance(connector, procrastinate.PsycopgConnector)
    async with connector.pool.connection() as line, line.transaction():
        await line.execute("SELECT * FROM jobs_enrolment WHERE id = %s FOR UPDATE", [enrolment])
        await line.execute("UPDATE jobs_enrolment SET place = %s WHERE id = %s", [STEPS[number], enrolment])
        await line.execute(
            "INSERT INTO jobs_turn (enrolment_id, reason) VALUES (%s, %s)", [enrolment, f"Did {STEPS[number]}."]
        )
        if STEPS[number] in ("one", "two"):
            await line.execute(
                "INSERT INTO jobs_message (key, body) VALUES (%s, 'Hi')", [f"e{enrolment}:{STEPS[number]}:1"]
            )
    if number + 1 < len(STEPS):
        await step.defer_async(enrolment=enrolment, number=number + 1)


def prepare(count: int) -> None:
    with psycopg.connect(URL, autocommit=True) as line:
        line.execute("DROP TABLE IF EXISTS jobs_enrolment, jobs_turn, jobs_message")
        line.execute("CREATE TABLE jobs_enrolment (id bigint PRIMARY KEY, place text)")
        line.execute("CREATE TABLE jobs_turn (id bigserial PRIMARY KEY, enrolment_id bigint, reason text)")
        line.execute("CREATE TABLE jobs_message (id bigserial PRIMARY KEY, key text UNIQUE, body text)")
        line.execute("INSERT INTO jobs_enrolment SELECT n, '' FROM generate_series(1, %s) AS n", [count])

    async def first() -> None:
        async with app.open_async():
            if not await app.check_connection_async():
                await app.schema_manager.apply_schema_async()
            await step.batch_defer_async(*({"enrolment": n, "number": 0} for n in range(1, count + 1)))

    asyncio.run(first())


async def work() -> None:
    async with app.open_async():
        await app.run_worker_async(concurrency=2, delete_jobs="always", install_signal_handlers=True)


if __name__ == "__main__":
    if sys.argv[1] == "prepare":
        prepare(int(sys.argv[2]))
    else:
        asyncio.run(work())
