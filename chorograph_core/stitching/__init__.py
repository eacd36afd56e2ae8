"""A route as it is followed at the machine: leg by leg, with what is checked before, and where it leads."""
