"""Sheets: plans, sections and elevations as one display list in millimetres of paper, computed and never a screenshot.

`sheet` is what a show keeps of one; `paper` sizes and scales; `frames` how a view looks at the show; `scope` what is in
it; `hidden` and `cuts` its lines and cut faces; `symbols`, `bodies` and `structures` the rig; `labels` where words find
room; `views` puts one view together, `compose` a sheet. What comes out is `marks`, drawn with `pens`. Files are written
by formats/sheet.
"""
