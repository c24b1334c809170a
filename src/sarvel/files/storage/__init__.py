"""Object storage: masters read from it, and renditions written to it. docs/storage.md."""
