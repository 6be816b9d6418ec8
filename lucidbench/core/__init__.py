"""The computation: circuits, analyses, formulas, comparison. Knows no web and no database."""
