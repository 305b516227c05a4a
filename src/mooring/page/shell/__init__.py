"""The page itself: windows of a browser, laid out with NiceGUI, each looking at the one desk."""
