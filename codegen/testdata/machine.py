# Stands in for what a board's MicroPython has: pins, a bus, and time.
import sys

import outside


class Pin:
    OUT = 1
    IN = 0
    PULL_UP = 1
    IRQ_RISING = 1
    IRQ_FALLING = 2

    def __init__(self, n, mode=0, pull=0):
        self.n = n

    def init(self, mode):
        if mode == Pin.IN:
            outside.tell("P %s 1 0" % self.n)

    def irq(self, handler, trigger=0):
        pass

    def value(self, level=None):
        if level is None:
            return outside.ask("I %s" % self.n)
        outside.tell("P %s %d" % (self.n, 1 if level else 0))


class I2C:
    def __init__(self, *args, **named):
        self.freq = named["freq"]

    def writeto(self, address, part):
        if outside.ask("W %d %s" % (address, " ".join([str(b) for b in part]))):
            raise OSError(5)

    def readfrom_into(self, address, into):
        into[0] = outside.ask("R %d" % address)


    def scan(self):
        return [a for a in range(8, 120) if not outside.ask("W %d" % a)]


class ADC:
    def __init__(self, pin):
        self.n = pin.n

    def read_u16(self):
        return outside.ask("A %d" % self.n)


class UART:
    def __init__(self, n, **named):
        self.said = b""

    def any(self):
        return len(self.said)

    def read(self, n):
        said, self.said = self.said[:n], self.said[n:]
        return said


class module:
    pass


machine = module()
machine.Pin = Pin
machine.ADC = ADC
machine.UART = UART
machine.I2C = machine.SoftI2C = I2C
sys.modules["machine"] = machine
time = module()
passed = [0]  # milliseconds


def sleep_ms(ms):
    passed[0] += ms
    outside.tell("U %d" % (1000 * ms))


time.sleep_us = lambda us: outside.tell("U %d" % us)
time.ticks_us = lambda: outside.ask("N")
time.sleep_ms = sleep_ms
time.ticks_ms = lambda: passed[0]
time.ticks_diff = lambda a, b: a - b
sys.modules["time"] = time
