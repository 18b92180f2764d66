"""The Watch workspace: walls of pictures."""
