"""Everything that touches the outside: show files, media, outputs.  No Qt."""
