"""The Align workspace: bend, blend and match projectors, with patterns on the real outputs and a stand-in screen beside
them.
"""
