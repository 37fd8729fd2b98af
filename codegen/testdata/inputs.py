# Stands in for what hands and sensors do at a board's pins: script, in the order of its times in
# milliseconds since start was called, as testdata/avr.c has it; quiet is when to look.
class Inputs:
    now = 0  # ms since start; -1 before
    begun = False
    levels = {}
    voltages = {}
    pins = {}
    lines = {}


def start():
    if not Inputs.begun:
        Inputs.begun = True
        Inputs.began = passed[0]


def happen():
    if not Inputs.begun:
        return
    now = passed[0] - Inputs.began
    while script and script[0][0] <= now:
        _, kind, of, to = script.pop(0)
        if kind == "p":
            Inputs.levels[of] = to
            pin = Inputs.pins.get(of)
            if pin and pin.handler:
                pin.handler(pin)
        elif kind == "a":
            Inputs.voltages[of] = to
        else:
            line = Inputs.lines[of]
            if len(line.waiting) < line.room:
                line.waiting.append(to)
    while quiet and quiet[0] <= now:
        outside.ask("Q %d" % quiet.pop(0))
    if not quiet:
        raise SystemExit


class InputPin(Pin):
    PULL_UP = 1
    IRQ_RISING = 1
    IRQ_FALLING = 2
    handler = None

    def __init__(self, n, mode=0, pull=None):
        self.n = n
        if mode == Pin.IN:
            Inputs.levels.setdefault(n, 1 if pull else 0)
            Inputs.pins[n] = self

    def value(self, level=None):
        if level is None and self.n in Inputs.levels:
            return Inputs.levels[self.n]
        return Pin.value(self, level)

    def irq(self, handler, trigger):
        self.handler = handler


class ADC:
    def __init__(self, pin):
        self.n = pin.n

    def read_u16(self):
        reading = Inputs.voltages.get(self.n, 0)
        return reading << 4 | reading >> 8


class UART:
    def __init__(self, n, baudrate, rx, tx, rxbuf):
        self.waiting = []
        self.room = rxbuf
        Inputs.lines[n] = self

    def any(self):
        return len(self.waiting)

    def readinto(self, buffer):
        buffer[0] = self.waiting.pop(0)


plain_sleep = sleep_ms


def sleeping(ms):
    plain_sleep(ms)
    happen()


plain_writeto = I2C.writeto
on_wire = [0]  # microseconds of bytes that make no whole millisecond yet


def writing(self, address, part):
    plain_writeto(self, address, part)
    on_wire[0] += 9000000 * (len(part) + 1) // self.freq
    while on_wire[0] >= 1000:  # hands do things meanwhile
        on_wire[0] -= 1000
        passed[0] += 1
        happen()


I2C.writeto = writing
machine.Pin = InputPin
machine.ADC = ADC
machine.UART = UART
machine.start = start
time.sleep_ms = sleeping
