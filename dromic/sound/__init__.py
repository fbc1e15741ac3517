"""Makes phrases sound: plucked strings, clicks, whole renderings. Arrays in, arrays out; no device."""
