"""The stand-in machine: true errors, noisy readings, imperfect answers to every move.

Forward models from first principles (rotations and a surface in three dimensions). Nothing here
uses a formula of `truing.checks`, so that agreement between the two means something.
"""
