/* Runs of a text; the same with arrays is in `runs.py`. */

#include "runs.h"

/* of a byte, as in runs.py */
enum { WORD = 1, FIGURE = 2, JOINS = 4, POINT = 8, LEADS = 16 };
/* of a stop between two letters that may be single ones */
enum { ABBREVIATES = 32 };

static int is_out(const unsigned char *byte, const unsigned char *latin, const unsigned char *wide)
{
    if (byte[0] == 0xC2)
        return latin[byte[1]] ? 0 : 2;
    if (byte[0] == 0xE2 && byte[1] == 0x80 && byte[2] < 0xC0 && !wide[byte[2]])
        return 3;
    uint32_t key = (uint32_t)byte[0] << 16 | (uint32_t)byte[1] << 8 | byte[2];
    return key == 0xE19A80 || key == 0xE2819F || key == 0xE38080 ? 3 : 0;
}

/* Whether a letter may stand beside a stop, with none further; `step` leads away from the stop. */
static int is_single(const unsigned char *byte, const unsigned char *kind, int step)
{
    int beyond = (byte[0] | byte[step]) & 0x80;
    int is_letter = (kind[0] & WORD) && (!(kind[0] & FIGURE) || byte[0] & 0x80);
    return is_letter && (beyond || !(kind[step] & WORD));
}

void mark_runs(Text text, unsigned char *inside)
{
    const unsigned char *data = text.data;
    size_t size = text.size;
    for (size_t at = 0; at < size; at++)
        inside[at] = text.kind_of[data[at]];
    memset(inside + size, 0, 16);
    for (size_t at = 0; at + 2 < size; at++) {
        uint64_t eight;
        memcpy(&eight, inside + at, 8);
        if (!(eight & 0x1010101010101010u)) {
            at += 7;
            continue;
        }
        if (inside[at] & LEADS) {
            inside[at] ^= LEADS;
            int out = is_out(data + at, text.latin, text.wide);
            for (int further = 0; further < out; further++)
                inside[at + further] = 0;
        }
    }
    for (const unsigned char *stop = data; (stop = memchr(stop, '.', data + size - 2 - stop)); stop++) {
        /* a text begins outside of words, so that two bytes before a letter's stop are there */
        size_t at = (size_t)(stop - data);
        if (at > 1 && is_single(stop - 1, inside + at - 1, -1) && is_single(stop + 1, inside + at + 1, 1))
            inside[at] |= ABBREVIATES;
    }
    for (size_t at = 0; at + 2 < size; at++) {
        unsigned char here = inside[at + 1], both = inside[at] & inside[at + 2];
        inside[at] = (here | ((here >> 2) & both) | ((here >> 3) & (both >> 1)) | (here >> 5)) & WORD;
    }
    inside[size - 2] = inside[size - 1] = 0;
}

int text_from(Py_buffer *held, Text *text)
{
    static const unsigned char zeros[8];
    if (held[1].len < 256 || held[2].len < 256 || held[3].len < 256 || *(unsigned char *)held[1].buf) {
        PyErr_SetString(PyExc_ValueError, "no table of all bytes, or one in which a zero is part of a word");
        return -1;
    }
    if (held[0].len < 8 || held[0].len > 0x7FFFFFFF || memcmp((char *)held[0].buf + held[0].len - 8, zeros, 8)) {
        PyErr_SetString(PyExc_ValueError, "a text that does not end in eight zeros, or is too long");
        return -1;
    }
    *text = (Text){held[0].buf, (size_t)held[0].len, held[1].buf, held[2].buf, held[3].buf};
    return 0;
}

/* runs(data, kinds, latin, wide, starts, lengths) -> how many: int64 are written, at most half as many as bytes. */
PyObject *runs(PyObject *self, PyObject *args)
{
    Py_buffer held[6];
    Text text;
    if (!PyArg_ParseTuple(args, "y*y*y*y*w*w*", &held[0], &held[1], &held[2], &held[3], &held[4], &held[5]))
        return NULL;
    if (!are_arrays(held, "111188") || text_from(held, &text) < 0) {
        release(held, 6);
        return NULL;
    }
    int64_t *starts = held[4].buf, *lengths = held[5].buf;
    size_t room = (size_t)(held[4].len < held[5].len ? held[4].len : held[5].len) / sizeof(int64_t);
    unsigned char *inside = room < text.size / 2 + 1 ? NULL : malloc(text.size + 16);
    if (!inside) {
        release(held, 6);
        if (room >= text.size / 2 + 1)
            return PyErr_NoMemory();
        PyErr_SetString(PyExc_ValueError, "too little room");
        return NULL;
    }
    size_t edges = 0;
    uint64_t before = 0;
    Py_BEGIN_ALLOW_THREADS
    mark_runs(text, inside);
    for (size_t at = 0; at < text.size; at += 8) {
        uint64_t changes = changes_at(inside + at, &before);
        while (changes) {
            int64_t place = (int64_t)at + 1 + LOWEST(changes);
            changes &= changes - 1;
            if (edges & 1)
                lengths[edges >> 1] = place - starts[edges >> 1];
            else
                starts[edges >> 1] = place;
            edges++;
        }
    }
    Py_END_ALLOW_THREADS
    free(inside);
    release(held, 6);
    return PyLong_FromSize_t(edges >> 1);
}
