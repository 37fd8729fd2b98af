def from_bus(address, number):
    """A register of a part on the bus: its number is written, then a byte is read."""
    byte = bytearray(1)
    displays.bus.writeto(address, bytes([number]))
    displays.bus.readfrom_into(address, byte)
    return byte[0]


def decimal(bcd):
    return (bcd >> 4) * 10 + (bcd & 15)
