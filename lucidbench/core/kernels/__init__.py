"""The compiled core of the analyses: evaluate, factor, iterate, step. Driven by tables, so that one
compiled kernel serves every circuit. Importing it imports the compiler."""
