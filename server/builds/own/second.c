        {
            struct slate_time t = {2026, 1, 1, 0, 0, 0};

            t.second = decimal(from_bus(0x68, 0)); /* the clock chip: seconds, minutes, hours in BCD */
            t.minute = decimal(from_bus(0x68, 1));
            t.hour = decimal(from_bus(0x68, 2) & 0x3Fu);
            (void)boathouse_clock_set_hour(&t);
            (void)boathouse_clock_set_warmth((int8_t)from_bus(0x48, 0)); /* the thermometer: whole degrees, cut */
        }
