"""The Edition: demand, cuts, ladders, renditions and their names, and which formats pay."""
