"""The running show: clock, stage, sources, composition and mapping, and what is handed to outputs.  No Qt."""
