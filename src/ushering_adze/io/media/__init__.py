"""Media: stills, folders of stills and clips, decoded to frames; and the pictures drawn for the other kinds
of source.
"""

from ushering_adze.io.media.opening import open_player, opening_key
from ushering_adze.io.media.player import Player

__all__ = ["Player", "open_player", "opening_key"]
