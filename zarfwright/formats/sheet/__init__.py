"""Sheets and lists as files: PDF, SVG and DXF of one display list (core/sheet/marks.py); lists as PDF.

The faces are DejaVu Sans Condensed and its bold, cut down to Latin, Greek, Cyrillic and signs; `faces/LICENSE` goes
with them. The same show gives the same bytes.
"""
