/* A table of byte strings: each has a number, and may be counted. */

#ifndef MILLSTONE_STRINGS_H
#define MILLSTONE_STRINGS_H

#include "parts.h"

typedef struct {
    uint64_t first, second; /* the first sixteen bytes, zeros after the last */
    uint64_t offset, times;
    uint32_t length;
} Entry;

typedef struct {
    PyObject_HEAD
    unsigned char *pool;
    size_t pool_size, pool_room;
    Entry *entries;
    size_t size, room;
    uint64_t *slots; /* above, 32 bits of a hash; below, a number and 1; 0 in an empty slot */
    size_t mask;
    unsigned char *inside; /* room for a block of text */
    size_t inside_room;
    uint32_t *met; /* the numbers of the strings that were counted */
    size_t met_size, met_room;
    int is_busy; /* a thread counts in it, without the interpreter's lock */
} Table;

extern PyType_Spec table_spec;

#define AT_ONCE 32
#ifdef __GNUC__
#define SOON(place) __builtin_prefetch(place)
#else
#define SOON(place)
#endif

/* Whether no thread counts in a table; an error if one does. */
int is_free(const Table *table);

/* The numbers of some strings, at most AT_ONCE, eight bytes behind each; -1 if memory runs out. */
int64_t number_some(
    Table *table, const unsigned char *data, const int64_t *starts, const int64_t *lengths, int32_t *found,
    size_t some);

/* Methods that count the runs of texts, in counting.c. */
PyObject *table_count(Table *table, PyObject *args);
PyObject *table_count_each(Table *table, PyObject *args);
PyObject *table_met(Table *table, PyObject *nothing);
PyObject *table_take(Table *table, PyObject *args);

#endif
