"""Who does the work on a master: processes of this machine, or workers of a cluster."""
