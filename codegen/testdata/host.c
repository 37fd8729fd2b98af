/* Runs the driver on this computer: calls come in on standard input, a line each; what it
 * asks of its host goes out on standard output, a line each.
 *
 *     b D            begin                W ADDRESS BYTES...   bytes written
 *     s D N          show                 R ADDRESS            answered by a byte
 *     c D            clear                P PIN LEVEL          a pin set
 *     v D N TO       set a value          I PIN                answered by a level
 *     t D N Y M D h m s                   U MICROSECONDS       a wait
 *     m D S A E      move the cursor      = STATUS             the call's end
 *     l D ON         light
 *     x D N CODES... 0                    a text
 *     p D            its show begins      k D MS             so much time passes
 *     e D INPUT KIND VALUE                something happens: 0 button, 2 counter, 3 serial, 4 signal, 5 an edit
 */
#include <stdio.h>
#include <stdlib.h>

#include BENCH
#include "port.h"
#include "port_calls.h"

#if defined(HAS_BUS) || defined(HAS_POLL_PINS)
static unsigned answer(void)
{
    unsigned value = 0;

    fflush(stdout);
    if (scanf("%u", &value) != 1) {
        exit(1);
    }
    return value;
}
#endif

static void host_wait(uint16_t microseconds)
{
    printf("U %u\n", microseconds);
}
#ifdef HAS_BUS
static uint8_t host_write(uint8_t address, const uint8_t *bytes, uint8_t count)
{
    printf("W %u", address);
    for (uint8_t i = 0; i < count; i++) {
        printf(" %u", bytes[i]);
    }
    printf("\n");
    return (uint8_t)answer();
}
#ifdef HAS_POLL
static uint8_t host_read(uint8_t address, uint8_t *byte)
{
    printf("R %u\n", address);
    *byte = (uint8_t)answer();
    return 0;
}
#endif
#endif
#ifdef HAS_PINS
static void host_pin(uint8_t pin, uint8_t level)
{
    printf("P %u %u\n", pin, level != 0);
}
#ifdef HAS_POLL_PINS
static uint8_t host_pin_read(uint8_t pin)
{
    printf("I %u\n", pin);
    return (uint8_t)answer();
}
#endif
#endif

static const struct port_calls calls = {
    .wait = host_wait,
#ifdef HAS_BUS
    .write = host_write,
#ifdef HAS_POLL
    .read = host_read,
#endif
#endif
#ifdef HAS_PINS
    .pin = host_pin,
#ifdef HAS_POLL_PINS
    .pin_read = host_pin_read,
#endif
#endif
};

static struct slate_display *displays[] = {DISPLAYS};
#ifdef HAS_STAGE
static struct slate_stage *stages[] = {STAGES};

static void happen(struct slate_stage *s, uint8_t input, long kind, long value)
{
    switch (kind) {
    case 0: slate_button(s, input, (uint8_t)value); break;
    case 2: slate_counter(s, input, (int16_t)value); break;
#ifdef HAS_SERIAL
    case 3: slate_serial(s, input, (uint8_t)value); break;
#endif
    case 4: slate_signal(s, input, (slate_value)value); break;
#ifdef HAS_EDIT
    case 5: slate_edit(s, (enum slate_does)value); break;
#endif
    default: exit(2);
    }
}
#endif

int main(void)
{
    char call;
    unsigned d;
    long a[7] = {0};

    port_use(&calls);
    port_begin();
    while (scanf(" %c %u", &call, &d) == 2) {
        slate_status status = 0;
        int wants = call == 's' || call == 'l' ? 1 : call == 'v' ? 2 : call == 't' ? 7 : call == 'm' || call == 'e' ? 3 : call == 'k' ? 1 : 0;

        for (int i = 0; i < wants; i++) {
            if (scanf("%ld", &a[i]) != 1) {
                return 1;
            }
        }
        switch (call) {
        case 'b': status = slate_begin(displays[d]); break;
        case 's': status = slate_show(displays[d], (uint8_t)a[0]); break;
        case 'c': status = slate_clear(displays[d]); break;
#ifdef HAS_LIGHT
        case 'l': status = slate_light(displays[d], (uint8_t)a[0]); break;
#endif
#ifdef HAS_VALUES
        case 'v': status = slate_set(displays[d], (uint8_t)a[0], (slate_value)a[1]); break;
#endif
#ifdef HAS_CLOCK
        case 't': {
            struct slate_time t = {(uint16_t)a[1], (uint8_t)a[2], (uint8_t)a[3], (uint8_t)a[4], (uint8_t)a[5], (uint8_t)a[6]};
            status = slate_set_time(displays[d], (uint8_t)a[0], &t);
            break;
        }
#endif
#ifdef HAS_PLACES
#ifdef HAS_TWO
        case 'm': status = slate_move(displays[d], (uint8_t)a[0], (uint8_t)a[1], (uint8_t)a[2]); break;
#else
        case 'm': status = slate_move(displays[d], (uint8_t)a[0], (uint8_t)a[1]); break;
#endif
#endif
#ifdef HAS_FREE
        case 'x': {
            char text[256] = {0};
            unsigned code = 1, n = 0;

            if (scanf("%ld", &a[0]) != 1) {
                return 1;
            }
            while (scanf("%u", &code) == 1 && code != 0) {
                text[n++] = (char)code;
            }
            status = slate_set_text(displays[d], (uint8_t)a[0], text);
            break;
        }
#endif
#ifdef HAS_STAGE
        case 'p': status = slate_play(stages[d]); break;
        case 'k': status = slate_tick(stages[d], (uint16_t)a[0]); break;
        case 'e': happen(stages[d], (uint8_t)a[0], a[1], a[2]); break;
#endif
        default: return 1;
        }
        printf("= %u\n", status);
        fflush(stdout);
    }
    return 0;
}
