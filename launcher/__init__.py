"""The launcher, with Python's standard library alone, since it runs before anything is installed.

machine.py    what the machine needs: Debian packages, the virtual environment, Node, the built web app
database.py   PostgreSQL: a private cluster in the data folder, or the server that DATABASE_URL names
running.py    web and worker, kept running until Ctrl+C
commands.py   start, test, and the rest
"""
