"""The stand-in bench: a physical build of a circuit, and the instruments that read it."""
