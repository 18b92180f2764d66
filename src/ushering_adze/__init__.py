"""Ushering Adze: configure every screen of an event, map and blend its pixels, and recall its pictures."""

import os

# Plug-ins that others may have installed for the checks of values are not looked for: they would change what a show
# file may hold, and
# the search takes a twentieth of a second of every start.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")

# The matrices here are small, and helpers of the linear algebra library spin when they start and after products: with
# them an edit of a mesh
# took a quarter longer on two cores.  Frames are shared between cores by ourselves.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

# What decoders of pictures think of damaged files is told by us; their own lines on standard error might wait for
# somebody to read them.
os.environ.setdefault("OPENCV_LOG_LEVEL", "SILENT")

__version__ = "0.1.0"
