"""Running orders and how they are played: the times of steps, the state at a time, and the transport. Time is only ever
given: nothing here knows a clock."""
