"""The application's pages: server-rendered, with modules for the canvas, the hand and the curve."""
