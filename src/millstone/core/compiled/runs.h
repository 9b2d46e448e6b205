/* Runs of word characters in a text, as `runs.py` finds them with arrays. */

#ifndef MILLSTONE_RUNS_H
#define MILLSTONE_RUNS_H

#include "parts.h"

#ifdef __GNUC__
#define LOWEST(bits) __builtin_ctzll(bits)
#else
static inline int lowest(uint64_t bits)
{
    int found = 0;
    while (!(bits >> found & 1))
        found++;
    return found;
}
#define LOWEST(bits) lowest(bits)
#endif

/* A text, and what its bytes are. */
typedef struct {
    const unsigned char *data;
    size_t size;
    const unsigned char *kind_of, *latin, *wide;
} Text;

/* Write 1 for each byte that is in a run, in the place of the byte before it; there is room for 16 bytes more. */
void mark_runs(Text text, unsigned char *inside);

/* The first four of some buffers as a text, which ends in eight zeros, and what its bytes are; -1 with an error if they
   are not valid. Eight bytes are read at a time, and lengths have 32 bits. */
int text_from(Py_buffer *held, Text *text);

/* Which of eight bytes, at a place, begin or end a run; `before` is whether the byte before them was in one. */
static inline uint64_t changes_at(const unsigned char *inside, uint64_t *before)
{
    uint64_t eight;
    memcpy(&eight, inside, 8);
    /* a bit of each byte */
    uint64_t bits = (eight * 0x0102040810204080u) >> 56;
    uint64_t changes = bits ^ ((bits << 1 | *before) & 0xFF);
    *before = bits >> 7;
    return changes;
}

#endif
