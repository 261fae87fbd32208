"""python -m zarfwright"""

from zarfwright.cli import main

raise SystemExit(main())
