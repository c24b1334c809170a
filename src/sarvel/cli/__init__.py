"""The commands: one module each, which parses, calls and prints. Nothing is computed here."""
