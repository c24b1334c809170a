"""The press: masters read, renditions made, files written whole or not at all. The only place that knows Pillow."""
