"""The scene as programs hand it to each other: what a show offers (`offered`, `shapes`), what a file's things come to
here (`taken`, `lamps`, `typing`), how the two differ (`compare`), and whether a scene lies as scenes do (`lie`).

`scene` has the values, in the words of MVR (DIN SPEC 15801), metres in the show's frame; bytes are `formats/mvr`.
"""
