"""The command line, one file for each family of commands: a thin layer over the same functions the desk uses."""
