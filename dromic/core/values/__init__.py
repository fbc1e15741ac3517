"""What everything else is made of: pitches, metres, note lengths, the words of techniques, checks, errors, arrays."""
