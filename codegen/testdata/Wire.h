// Stands in for the bus of the editor's environment: see editor.h.
#ifndef __AVR__
struct Bus {
    unsigned char bytes[33];
    unsigned target, count;

    void setSDA(int) {}
    void setSCL(int) {}
    void begin() {}
    void begin(int, int) {}
    void setClock(unsigned long) {}

    void beginTransmission(unsigned char address)
    {
        target = address;
        count = 0;
    }

    void write(const unsigned char *from, unsigned n)
    {
        for (; n > 0 && count < 32; n--) { // as many as its buffer takes
            bytes[count++] = *from++;
        }
    }

    unsigned char endTransmission()
    {
        unsigned i;

        printf("W %u", target);
        for (i = 0; i < count; i++) {
            printf(" %u", bytes[i]);
        }
        printf("\n");
        return ask() ? 2 : 0;
    }

    unsigned char requestFrom(unsigned char address, unsigned char n)
    {
        target = address;
        return n;
    }

    int read()
    {
        printf("R %u\n", target);
        return (int)ask();
    }
};

inline Bus Wire, Wire1;
#endif
