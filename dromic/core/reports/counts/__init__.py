"""What players count in a plan: rates against the hand, fingers, transfers, figures, and the rows they are told in."""
