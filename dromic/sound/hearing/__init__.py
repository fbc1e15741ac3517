"""What is heard of a recording: onsets and ends of notes, other strings, what bleeds in; takes and passes against plans."""
