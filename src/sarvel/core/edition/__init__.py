"""The Edition: demand, crops, ladders, renditions and their names, and which formats pay."""
