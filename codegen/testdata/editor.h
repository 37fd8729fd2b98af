// Stands in for what the widespread editor for hobby boards gives a sketch: its plain calls, and a main
// that calls setup once and loop for ever. On an ATmega it sets timers and converter up as that
// environment does before setup (from memory); elsewhere the calls are lines on standard output, as
// testdata/host.c has them, and hands and sensors do what script.inc says.
#include <stdint.h>
#include <string.h>

#define INPUT 0
#define OUTPUT 1
#define INPUT_PULLUP 2

void setup();
void loop();

#ifdef __AVR__
#include <avr/interrupt.h>
#include <avr/io.h>

static volatile unsigned long ticks;

ISR(TIMER0_OVF_vect)
{
    ticks = ticks + 1;
}

int main()
{
    sei();
    TCCR0A = _BV(WGM01) | _BV(WGM00);
    TCCR0B = _BV(CS01) | _BV(CS00);
    TIMSK0 = _BV(TOIE0);
    TCCR1B = _BV(CS11) | _BV(CS10);
    TCCR1A = _BV(WGM10); // PWM of eight bits
    ADCSRA = _BV(ADPS2) | _BV(ADPS1) | _BV(ADPS0) | _BV(ADEN);
    setup();
    for (;;) {
        loop();
    }
}
#else
#include <deque>
#include <map>
#include <stdio.h>
#include <stdlib.h>

#define SERIAL_8N1 6
#define HEX 16

struct Deed {
    double ms;
    char what;
    int of, to;
};

static const Deed script[] = {
#include "script.inc"
    {1e18, 0, 0, 0},
};

static const long quiet[] = {
#include "quiet.inc"
    -1,
};

static unsigned long now_us, began_us;
static bool began;
static std::map<int, int> levels, voltages;
static std::map<int, std::deque<int>> coming;

static long ask()
{
    long answer = 0;

    fflush(stdout);
    if (scanf("%ld", &answer) != 1) {
        exit(1);
    }
    return answer;
}

static void pass(unsigned long us)
{
    static unsigned at, looked;
    double ms;

    now_us += us;
    printf("U %lu\n", us);
    if (!began) {
        return;
    }
    ms = (double)(now_us - began_us) / 1000.0;
    for (; script[at].ms <= ms; at++) {
        switch (script[at].what) {
        case 'p':
            levels[script[at].of] = script[at].to;
            break;
        case 'a':
            voltages[script[at].of] = script[at].to;
            break;
        default:
            coming[script[at].of].push_back(script[at].to);
        }
    }
    for (; quiet[looked] >= 0 && (double)quiet[looked] <= ms; looked++) {
        printf("Q %ld\n", quiet[looked]);
        ask();
    }
    if (quiet[looked] < 0) {
        printf("= 0\n");
        fflush(stdout);
        exit(0);
    }
}

// The show has begun: from now on hands and sensors do something.
static inline void begins()
{
    if (!began) {
        began = true;
        began_us = now_us;
    }
}

static inline void delay(unsigned long ms) { pass(1000 * ms); }
static inline void delayMicroseconds(unsigned us) { pass(us); }

static inline unsigned long millis()
{
    pass(50);
    return now_us / 1000;
}

static inline unsigned long micros()
{
    pass(1);
    return now_us;
}

static inline void pinMode(int pin, int mode)
{
    if (mode == INPUT_PULLUP && !levels.count(pin)) {
        levels[pin] = 1;
    } else if (mode == INPUT && !levels.count(pin)) {
        levels[pin] = 0;
    }
}

static inline void digitalWrite(int pin, int level) { printf("P %d %d\n", pin, level != 0); }

static inline int digitalRead(int pin)
{
    if (levels.count(pin)) {
        return levels[pin];
    }
    printf("I %d\n", pin);
    return (int)ask();
}

#define DEFAULT 1
#define INTERNAL 3
#define INTERNAL1V1 2
#define INTERNAL2V56 4
static inline void analogReference(int) {}
static inline int analogRead(int pin) { return voltages[pin]; }
static inline void analogReadResolution(int bits) { (void)bits; }

struct Line {
    void write(uint8_t) {}
    int number;

    void setRX(int) {}
    void setTX(int) {}
    void begin(long) {}
    void begin(long, int, int, int) {}

    void print(const char *text) { printf("T %s\n", text); }
    void println(const char *text) { printf("T %s\nT \n", text); }
    void print(int n) { printf("T %d\n", n); }

    void print(int n, int base)
    {
        printf(base == HEX ? "T %X\n" : "T %d\n", n);
    }

    int read()
    {
        int c = -1;

        if (!coming[number].empty()) {
            c = coming[number].front();
            coming[number].pop_front();
        }
        return c;
    }
};

#ifndef SERIAL1
#define SERIAL1 0
#endif

inline Line Serial = {0}, Serial1 = {SERIAL1}, Serial2 = {SERIAL1 + 1};

int main()
{
    char line[80];

    if (!fgets(line, sizeof line, stdin)) {
        return 1;
    }
    setup();
#ifdef ROUNDS
    for (int n = 0; n < ROUNDS; n++) {
        loop();
    }
    printf("= 0\n");
    fflush(stdout);
#else
    for (;;) {
        loop();
    }
#endif
}
#endif
