"""What files are, by their endings."""

from __future__ import annotations

from ushering_adze.core.show.source import Clip, Folder, Pages, Source, Still, Text

STILLS = {".png", ".jpg", ".jpeg", ".tif", ".tiff", ".webp", ".bmp"}
FILMS = {".mp4", ".mov", ".mkv", ".webm", ".avi", ".mxf", ".m4v", ".mpg", ".mpeg", ".ts", ".gif"}
OFFICE = {".odp", ".odt", ".ppt", ".pptx", ".pps", ".ppsx", ".doc", ".docx", ".key"}
TABLES = {".csv", ".tsv"}
SUBTITLES = {".srt", ".ass", ".ssa", ".vtt", ".sub"}


def source_of_file(path: str, is_folder: bool, id: str, name: str) -> Source:
    """The source that a file or a folder of pictures is, by its ending; a clip if that says nothing.

    Parameters
    ----------
    path : str
    is_folder : bool
    id : str
    name : str

    Returns
    -------
    Source

    Examples
    --------
    >>> source_of_file("/show/names.CSV", False, "names", "Names").kind
    'text'
    """
    ending = f".{path.rsplit('.', 1)[-1].lower()}" if "." in path.rsplit("/", 1)[-1] else ""
    if is_folder:
        return Folder(id=id, name=name, path=path)
    if ending in STILLS:
        return Still(id=id, name=name, path=path)
    if ending in {".pdf"} | OFFICE:
        return Pages(id=id, name=name, path=path)
    if ending in {".txt"} | TABLES | SUBTITLES:
        return Text(id=id, name=name, path=path)
    return Clip(id=id, name=name, path=path)
