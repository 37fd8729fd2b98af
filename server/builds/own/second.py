        try:
            second = decimal(from_bus(0x68, 0))  # the clock chip: seconds, minutes, hours in BCD
            minute = decimal(from_bus(0x68, 1))
            hour = decimal(from_bus(0x68, 2) & 0x3F)
            displays.boathouse_clock_set_hour((2026, 1, 1, hour, minute, second))
            warmth = from_bus(0x48, 0)  # the thermometer: whole degrees, cut
            displays.boathouse_clock_set_warmth(warmth - 256 if warmth > 127 else warmth)
        except OSError as e:
            print(e)
            begun = False
