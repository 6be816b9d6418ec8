"""Instruments that are told what to do in text: IEEE 488.2 messages with the commands of SCPI-1999."""
