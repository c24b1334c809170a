"""The command line: its options, its commands, and what people see of them. Nothing is computed here."""
