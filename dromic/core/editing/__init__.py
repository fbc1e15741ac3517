"""What is made of a phrase: edits, moved shapes, other readings, parts beside each other, repeats written out."""
