/* Runs a program on a simulated ATmega and records what it does to its lines, with the
 * cycle at which it does so:
 *
 *     avr FIRMWARE.ELF MCU CYCLES ASK STUCK SCRIPT ADDRESS...
 *
 *     S CYCLE BYTE DIVIDER    START, or a repeated one, and the address byte
 *     B CYCLE BYTE            a byte to an expander        E CYCLE      STOP
 *     R CYCLE                 a byte from one: answered by it on standard input
 *     P CYCLE PIN LEVEL DRIVEN   a pin; with ASK answered by PIN LEVEL of one that reads
 *     T CYCLE BYTE            a character from serial line 0
 *     = CYCLE LOW HIGH        the program wrote GPIOR1, GPIOR2, and then GPIOR0
 *
 * The simulator takes 9 microseconds for a byte at any speed; whoever reads this must make
 * up for it by the divider. ADDRESSes are those that acknowledge. STUCK is 1 for a bus on which nothing moves.
 *     H CYCLE                 a character has come over the pseudo-terminal
 * With VCD in the environment, its own value change dump of the pins of ports B to D is written to that file.
 * With PTY in the environment, serial line 0 is a pseudo-terminal, whose name is told first: Y 0 NAME.
 * SCRIPT is a file of what others do to its pins, or -: lines in their order, each the cycle after the
 * program's first mark, and what happens then:
 *
 *     CYCLE p PIN LEVEL       a level from outside      CYCLE a INPUT MILLIVOLTS   a voltage
 *     CYCLE s LINE BYTE       a character begins to come */
#define _GNU_SOURCE
#include <errno.h>
#include <fcntl.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <termios.h>
#include <unistd.h>

#include <simavr/avr_adc.h>
#include <simavr/avr_extint.h>
#include <simavr/avr_ioport.h>
#include <simavr/avr_twi.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <simavr/sim_io.h>
#include <simavr/sim_vcd_file.h>

static avr_t *avr;
static int ask, selected;
static uint8_t answers[128];
static avr_irq_t *twi;
static avr_twi_t *hardware;

static unsigned long long now(void) { return (unsigned long long)avr->cycle; }

static unsigned divider(void)
{
    static const unsigned scale[] = {1, 4, 16, 64};

    return 16 + 2u * avr->data[0xB8] * scale[avr->data[0xB9] & 3];
}

static void on_twi(struct avr_irq_t *irq, uint32_t value, void *param)
{
    avr_twi_msg_irq_t m = {.u.v = value};
    unsigned byte = 0;

    (void)irq;
    (void)param;
    if (m.u.twi.msg & TWI_COND_STOP) {
        selected = 0;
        printf("E %llu\n", now());
    }
    if (m.u.twi.msg & TWI_COND_START) {
        hardware->state &= (uint8_t)~TWI_COND_WRITE; /* else it takes the address for data */
        selected = answers[m.u.twi.addr >> 1] ? m.u.twi.addr | 0x100 : 0;
        printf("S %llu %u %u\n", now(), m.u.twi.addr, divider());
        if (selected) {
            avr_raise_irq(twi + TWI_IRQ_INPUT, avr_twi_irq_msg(TWI_COND_ACK, m.u.twi.addr, 1));
        }
    }
    if (!selected) {
        return;
    }
    if (m.u.twi.msg & TWI_COND_WRITE) {
        printf("B %llu %u\n", now(), m.u.twi.data);
        avr_raise_irq(twi + TWI_IRQ_INPUT, avr_twi_irq_msg(TWI_COND_ACK, (uint8_t)selected, 1));
    }
    if (m.u.twi.msg & TWI_COND_READ) {
        printf("R %llu\n", now());
        fflush(stdout);
        if (scanf("%u", &byte) != 1) {
            exit(1);
        }
        avr_raise_irq(twi + TWI_IRQ_INPUT, avr_twi_irq_msg(TWI_COND_READ, (uint8_t)selected, (uint8_t)byte));
    }
}

static int busy; /* it has done something to its lines */
static uint8_t port_of[11], direction_of[11], levels[88], driven[88];
static avr_ioport_external_t outer[11];
static uint8_t outside[88]; /* levels that others give to pins; the simulator forgets them */
static unsigned answers_of[32];
static int answered;

/* Tells of every pin of a port that has changed. A pin that does not drive is high. */
static void told(unsigned port)
{
    unsigned pin, level, reads, answer;

    for (pin = port * 8; pin < port * 8 + 8; pin++) {
        uint8_t drives = direction_of[port] >> (pin & 7) & 1, out = drives ? port_of[port] >> (pin & 7) & 1 : 1;

        if (drives == driven[pin] && (out == levels[pin] || !drives)) {
            continue;
        }
        busy = 1;
        driven[pin] = drives;
        levels[pin] = out;
        printf("P %llu %u %u %u\n", now(), pin, out, drives);
        if (!ask) {
            continue;
        }
        fflush(stdout);
        if (scanf("%u", &reads) != 1) {
            exit(1);
        }
        for (answered = 0; reads > 0 && answered < 32; reads--) {
            if (scanf("%u %u", &answer, &level) != 2) {
                exit(1);
            }
            outside[answer] = (uint8_t)level;
            answers_of[answered++] = answer;
        }
    }
}

static void on_port(struct avr_irq_t *irq, uint32_t value, void *param)
{
    (void)irq;
    port_of[(uintptr_t)param] = (uint8_t)value;
    told((unsigned)(uintptr_t)param);
}

static void on_direction(struct avr_irq_t *irq, uint32_t value, void *param)
{
    (void)irq;
    direction_of[(uintptr_t)param] = (uint8_t)value;
    told((unsigned)(uintptr_t)param);
}

static int terminal = -1; /* of serial line 0 */
static avr_cycle_count_t next_character;

/* Opens the pseudo-terminal. */
static void open_terminal(void)
{
    struct termios raw;
    int other;

    terminal = posix_openpt(O_RDWR | O_NOCTTY);
    grantpt(terminal);
    unlockpt(terminal);
    other = open(ptsname(terminal), O_RDWR | O_NOCTTY); /* stays open, so that the line outlives who opens it */
    tcgetattr(other, &raw);
    cfmakeraw(&raw);
    tcsetattr(other, TCSANOW, &raw);
    fcntl(terminal, F_SETFL, O_NONBLOCK);
    printf("Y 0 %s\n", ptsname(terminal));
    fflush(stdout);
}

/* A character a time, nearly as fast as the line carries them: ten bits of 115,200 baud are 1389 cycles, and the
 * simulator takes the next one so long after the one before was read; what comes faster it drops. */
static void hear(void)
{
    uint8_t c;

    if (avr->cycle < next_character) {
        return;
    }
    next_character = avr->cycle + 1600;
    if (read(terminal, &c, 1) == 1) {
        printf("H %llu\n", now());
        avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_INPUT), c);
    }
}

static void on_character(struct avr_irq_t *irq, uint32_t value, void *param)
{
    (void)irq;
    (void)param;
    if (terminal >= 0) {
        uint8_t c = (uint8_t)value;

        fflush(stdout);
        while (write(terminal, &c, 1) < 0 && errno == EAGAIN) {
        }
        return;
    }
    printf("T %llu %u\n", now(), value);
}

static avr_cycle_count_t last;
static FILE *script;
static avr_cycle_count_t marked, due;
static char what;
static unsigned of, to;

/* Reads what happens next. */
static void read_next(void)
{
    unsigned long long after;

    if (!script || fscanf(script, "%llu %c %u %u", &after, &what, &of, &to) != 4) {
        what = 0;
    }
    due = marked + after;
}

/* Does what is due. */
static void happen(void)
{
    while (what && marked && avr->cycle >= due) {
        if (what == 'p') {
            char name = "ABCDEFGHJKL"[of >> 3];
            unsigned bit = of & 7;

            outer[of >> 3].name = name;
            outer[of >> 3].mask |= 1u << bit;
            outer[of >> 3].value = (outer[of >> 3].value & ~(1u << bit)) | to << bit;
            avr_ioctl(avr, AVR_IOCTL_IOPORT_SET_EXTERNAL(name), &outer[of >> 3]);
            avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(name), (int)bit), to);
        } else if (what == 'a') {
            avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_ADC_GETIRQ, ADC_IRQ_ADC0 + (int)(of & 7)), to);
        } else {
            avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0' + of), UART_IRQ_INPUT), to);
        }
        read_next();
    }
}

/* The program goes round and waits for the next millisecond, value times 64 cycles away. Where it has done
   nothing else in the last rounds, the time until then, or until a timer or the script has something for it, is passed over. */
static void on_pass(struct avr_t *a, avr_io_addr_t address, uint8_t value, void *param)
{
    static avr_cycle_count_t awaited;
    static int rounds;
    avr_cycle_count_t next = a->cycle_timers.timer ? a->cycle_timers.timer->when : last, until = a->cycle + 64u * value;

    (void)address;
    (void)param;
    rounds = next == awaited && !busy ? rounds + 1 : 0;
    awaited = next;
    busy = 0;
    if (what && marked && due < next) {
        next = due;
    }
    if (next > until - 64) {
        next = until - 64;
    }
    if (rounds >= 2 && value > 0 && next > a->cycle) {
        a->cycle = next;
        a->run_cycle_count = 1;
    }
}

static void on_mark(struct avr_t *a, avr_io_addr_t address, uint8_t value, void *param)
{
    (void)param;
    a->data[address] = value;
    printf("= %llu %u %u\n", now(), a->data[0x4A], a->data[0x4B]);
    if (!marked) {
        marked = avr->cycle;
        read_next();
    }
    fflush(stdout);
}

static avr_vcd_t dump;

/* Has the simulator itself record the pins. */
static void record(const char *file)
{
    int port, pin;

    avr_vcd_init(avr, file, &dump, 10);
    for (port = 0; port < 3; port++) {
        for (pin = 0; pin < 8; pin++) {
            char name[] = {'P', (char)('B' + port), (char)('0' + pin), 0};

            avr_vcd_add_signal(&dump, avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ("BCD"[port]), pin), 1, name);
        }
    }
    avr_vcd_start(&dump);
}

int main(int n, char **args)
{
    elf_firmware_t firmware = {{0}};
    int state = cpu_Running, stuck = atoi(args[5]), i;

    if (n < 7 || elf_read_firmware(args[1], &firmware) != 0) {
        return 2;
    }
    last = strtoull(args[3], 0, 10);
    strcpy(firmware.mmcu, args[2]);
    firmware.frequency = 16000000;
    firmware.vcc = firmware.avcc = firmware.aref = 5000;
    script = strcmp(args[6], "-") ? fopen(args[6], "r") : 0;
    avr = avr_make_mcu_by_name(args[2]);
    avr_init(avr);
    avr->log = LOG_ERROR;
    avr_load_firmware(avr, &firmware);
    ask = atoi(args[4]);
    for (i = 7; i < n; i++) {
        answers[atoi(args[i]) & 127] = 1;
    }
    for (avr_io_t *io = avr->io_port; io; io = io->next) {
        if (strcmp(io->kind, "twi") == 0) {
            hardware = (avr_twi_t *)io; /* its first member */
            hardware->twi.raise_sticky = 0; /* else TWINT, once set, is not cleared for who polls it */
        }
        if (strcmp(io->kind, "adc") == 0 && strcmp(args[2], "atmega2560") == 0) {
            avr_adc_t *adc = (avr_adc_t *)io;

            for (i = 0; i < 8; i++) { /* MUX5 and 0 to 7 (ATmega2560 data sheet, from memory): it has room for eight voltages only */
                adc->muxmode[32 + i] = (avr_adc_mux_t)AVR_ADC_SINGLE(i);
            }
        }
    }
    twi = avr_io_getirq(avr, AVR_IOCTL_TWI_GETIRQ(0), 0);
    avr_irq_register_notify(twi + TWI_IRQ_OUTPUT, on_twi, 0);
    for (i = 0; i < 11; i++) {
        char name = "ABCDEFGHJKL"[i];
        avr_irq_t *port = avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(name), IOPORT_IRQ_REG_PORT);

        if (port) {
            avr_irq_register_notify(port, on_port, (void *)(uintptr_t)i);
            avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(name), IOPORT_IRQ_DIRECTION_ALL), on_direction, (void *)(uintptr_t)i);
        }
    }
    avr_register_io_write(avr, 0x3E, on_mark, 0);
    avr_register_io_write(avr, 0x40, on_pass, 0); /* EEDR */
    for (i = 0; i < 8; i++) { /* else a pin that is low is looked at in every cycle */
        avr_extint_set_strict_lvl_trig(avr, (uint8_t)i, 0);
    }
    for (i = 0; i < 4; i++) { /* lines are not this program's own */
        uint32_t flags = 0;

        avr_ioctl(avr, AVR_IOCTL_UART_SET_FLAGS('0' + i), &flags);
    }
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT), on_character, 0);
    if (getenv("VCD")) {
        record(getenv("VCD"));
    }
    if (ask || stuck) {
        avr->run_cycle_limit = 1; /* an instruction at a time */
    }
    if (getenv("PTY")) {
        open_terminal();
        marked = 1; /* there what is outside begins at once */
        read_next();
    }
    while (avr->cycle < last && state != cpu_Done && state != cpu_Crashed) {
        state = avr_run(avr);
        happen();
        if (terminal >= 0) {
            hear();
        }
        for (i = 0; i < answered; i++) {
            unsigned pin = answers_of[i], port = pin >> 3;
            uint8_t *in = &avr->data[port < 7 ? 0x20 + 3 * port : 0x100 + 3 * (port - 7)], bit = (uint8_t)(1 << (pin & 7));

            *in = (uint8_t)(outside[pin] ? *in | bit : *in & ~bit);
        }
        if (stuck) {
            avr->data[0xBC] &= 0x7F; /* TWINT: the bus never gets anything done */
        }
    }
    fflush(stdout);
    if (getenv("VCD")) {
        avr_vcd_stop(&dump);
    }
    return state == cpu_Crashed ? 3 : 0;
}
