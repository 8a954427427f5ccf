"""A workflow: the document people write, and what is computed from it without running it.

document.py  the document (Pydantic); its JSON Schema is published as docs/workflow.schema.json
files.py     reading and writing it as JSON and YAML, with errors that name the place
program.py   compiled to a flat table of steps: what comes after what
timeline.py  the earliest and latest moment of every line
checks.py    what is wrong or risky
reading.py   all of that at once, with the sentences, for the workflow page
"""
