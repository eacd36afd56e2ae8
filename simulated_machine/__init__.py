"""A stand-in for a machine and the quilter at it: takes a plan, stitches it, tells what happens.

It knows nothing of the studio but the protocol of docs/simulated-machine.md.
"""
