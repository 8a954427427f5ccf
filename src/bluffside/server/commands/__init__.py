"""Commands the launcher runs: work, load_demo, export_api, export_schema."""
