"""The exercise as one open document: its models, older forms of it, and what changes one."""
