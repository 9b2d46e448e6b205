/* UTF-8 checked; the same by decoding is in `decoding.py`. */

#include "parts.h"

/* How long a character of UTF-8 is by its first byte, and between what its second byte lies; 0 for no first byte. */
static int character(const unsigned char *byte, unsigned char *least, unsigned char *most)
{
    *least = byte[0] == 0xE0 ? 0xA0 : byte[0] == 0xF0 ? 0x90 : 0x80;
    *most = byte[0] == 0xED ? 0x9F : byte[0] == 0xF4 ? 0x8F : 0xBF;
    if (byte[0] < 0x80)
        return 1;
    if (byte[0] < 0xC2 || byte[0] > 0xF4)
        return 0;
    return byte[0] < 0xE0 ? 2 : byte[0] < 0xF0 ? 3 : 4;
}

#define EACH(byte) ((uint64_t)(byte) * 0x0101010101010101u)

/* Whether eight bytes are ASCII and characters of two bytes, of which the last may go on in the next eight; `open` is
   1 if one goes on in the first of them, and is then whether one goes on beyond the last. */
static inline int are_narrow(uint64_t eight, uint64_t *open)
{
    uint64_t high = eight & EACH(0x80), second = eight << 1 & EACH(0x80), third = eight << 2 & EACH(0x80);
    uint64_t further = high & ~second, first = high & second & ~third;
    /* 0xC0 and 0xC1 begin no character */
    uint64_t fair = ((eight & EACH(0x1E)) + EACH(0x7E)) & EACH(0x80);
    if (high & second & third || further != (first << 8 | *open << 7) || first & ~fair)
        return 0;
    *open = first >> 63;
    return 1;
}

/* How many bytes from the start are whole characters of UTF-8 (RFC 3629); -1 where a byte is wrong. */
static int64_t whole_characters(const unsigned char *data, size_t size)
{
    size_t at = 0;
    uint64_t open = 0;
    while (at < size) {
        uint64_t eight;
        if (at + 8 <= size && (memcpy(&eight, data + at, 8), are_narrow(eight, &open))) {
            at += 8;
            continue;
        }
        at -= open;
        open = 0;
        /* one after the other, as long as they are wide, or only few bytes are left */
        do {
            unsigned char least, most;
            int length = character(data + at, &least, &most);
            if (!length)
                return -1;
            for (int further = 1; further < length; further++) {
                if (at + further == size)
                    return (int64_t)at;
                if (data[at + further] < least || data[at + further] > most)
                    return -1;
                least = 0x80;
                most = 0xBF;
            }
            at += length;
        } while (at < size && (data[at] >= 0xE0 || at + 8 > size));
    }
    return (int64_t)(at - open);
}

PyObject *whole(PyObject *self, PyObject *args)
{
    Py_buffer held[1];
    int64_t found;
    if (!PyArg_ParseTuple(args, "y*", &held[0]))
        return NULL;
    Py_BEGIN_ALLOW_THREADS
    found = whole_characters(held[0].buf, (size_t)held[0].len);
    Py_END_ALLOW_THREADS
    release(held, 1);
    return PyLong_FromLongLong(found);
}
