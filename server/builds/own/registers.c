/* A register of a part on the bus: its number is written, then a byte is read. */
static uint8_t from_bus(uint8_t address, uint8_t number)
{
    uint8_t byte = 0;

    if (port_bus_start((uint8_t)(address << 1)) == PORT_OK && port_bus_write(number) == PORT_OK
        && port_bus_start((uint8_t)((address << 1) + 1)) == PORT_OK) {
        (void)port_bus_read(&byte);
    }
    port_bus_stop();
    return byte;
}

static uint8_t decimal(uint8_t bcd)
{
    return (uint8_t)((bcd >> 4) * 10u + (bcd & 15u));
}
