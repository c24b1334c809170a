"""What people see: the console, tables, styles, and other forms of messages."""
