"""Values and pure functions of the trade.  No Qt, no files, no sockets, no threads, no clock."""
