"""A workflow: the document people write, and what is computed from it without running it.

document.py    the document (Pydantic); its JSON Schema is published as docs/workflow.schema.json
scenario.py    the scenarios in it
files.py       reading and writing it as JSON and YAML, with errors that name the place
upgrade.py     documents of earlier formats
program.py     compiled to a flat table of steps: what comes after what
graph.py       what can be reached and what goes round, proven on that table
timeline.py    the earliest and latest moment of every line
counts.py      how often it speaks to one person
checks.py      what is wrong or risky: document_checks.py by itself, account_checks.py in its account (house.py)
mending.py     carrying out the mend that a check offers
references.py  what it uses by name
differences.py what changed between two versions, in sentences
moving.py      people inside, moved from one version to another
entering.py    who may come in
reading.py     all of that at once, with the sentences, for the workflow page
"""
