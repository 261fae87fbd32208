"""A process that is told things and never reads them."""

import time

time.sleep(60)
