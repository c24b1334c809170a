"""The code that drew the demo's masters: NumPy alone, and Pillow for lettering. Same program, same pictures.

`python -m scripts.drawings FOLDER` draws them again.
"""
