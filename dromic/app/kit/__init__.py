"""What every part of the window uses: colours and fonts, the thread of the work, timers, kept settings, boxes and columns."""
