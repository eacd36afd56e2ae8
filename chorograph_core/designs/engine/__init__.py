"""What several designs share: arcs, fitting, walks along lines that meet, spirals."""
