/* The hot loops; each has a pure NumPy equivalent: runs of a text (`runs.py`), numbers for byte strings
   (`numbering.py`), cells of a matrix under other columns (`cells.py`), UTF-8 checked (`decoding.py`), rows of
   a delimited file found (`delimited.py`).

   Optional: where no C compiler is present these are used instead, with the same results. */

#define PY_SSIZE_T_CLEAN
#include <Python.h>
#include <stdint.h>
#include <string.h>

/* Of what functions take and give; `core/arrays.py` uses no other. Raise both with every change. */
#define INTERFACE 2

#if defined(__BYTE_ORDER__) && __BYTE_ORDER__ != __ORDER_LITTLE_ENDIAN__
#error "words are read with their lowest byte first; without this part the program is whole"
#endif

/* of a byte, as in runs.py */
enum { WORD = 1, FIGURE = 2, JOINS = 4, POINT = 8, LEADS = 16 };

/* ---- arguments ---- */

static void release(Py_buffer *buffers, int number)
{
    for (int at = 0; at < number; at++)
        PyBuffer_Release(&buffers[at]);
}

/* Whether some buffers are arrays of numbers of so many bytes each, a digit for each buffer; an error if not. */
static int are_arrays(const Py_buffer *buffers, const char *sizes)
{
    for (int at = 0; sizes[at]; at++) {
        size_t size = (size_t)(sizes[at] - '0');
        if ((size_t)buffers[at].len % size || (uintptr_t)buffers[at].buf % size) {
            PyErr_SetString(PyExc_ValueError, "an array that is not aligned, or no array of such numbers");
            return 0;
        }
    }
    return 1;
}

/* ---- runs ---- */

#ifdef __GNUC__
#define LOWEST(bits) __builtin_ctzll(bits)
#else
static int lowest(uint64_t bits)
{
    int found = 0;
    while (!(bits >> found & 1))
        found++;
    return found;
}
#define LOWEST(bits) lowest(bits)
#endif

static int is_out(const unsigned char *byte, const unsigned char *latin, const unsigned char *wide)
{
    if (byte[0] == 0xC2)
        return latin[byte[1]] ? 0 : 2;
    if (byte[0] == 0xE2 && byte[1] == 0x80 && byte[2] < 0xC0 && !wide[byte[2]])
        return 3;
    uint32_t key = (uint32_t)byte[0] << 16 | (uint32_t)byte[1] << 8 | byte[2];
    return key == 0xE19A80 || key == 0xE2819F || key == 0xE38080 ? 3 : 0;
}

/* A text, and what its bytes are. */
typedef struct {
    const unsigned char *data;
    size_t size;
    const unsigned char *kind_of, *latin, *wide;
} Text;

/* Write 1 for each byte that is in a run, in the place of the byte before it; there is room for 16 bytes more. */
static void mark_runs(Text text, unsigned char *inside)
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
    for (size_t at = 0; at + 2 < size; at++) {
        unsigned char here = inside[at + 1], both = inside[at] & inside[at + 2];
        inside[at] = (here | ((here >> 2) & both) | ((here >> 3) & (both >> 1))) & WORD;
    }
    inside[size - 2] = inside[size - 1] = 0;
}

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

/* ---- strings and their numbers ---- */

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

static uint64_t masks[9] = {
    0, 0xFF, 0xFFFF, 0xFFFFFF, 0xFFFFFFFF, 0xFFFFFFFFFF, 0xFFFFFFFFFFFF, 0xFFFFFFFFFFFFFF, 0xFFFFFFFFFFFFFFFF};

/* Eight bytes, of which only so many count; all eight may be read. */
static inline uint64_t word_at(const unsigned char *bytes, size_t length)
{
    uint64_t found;
    memcpy(&found, bytes, 8);
    return found & masks[length < 8 ? length : 8];
}

static inline uint64_t mixed(uint64_t first, uint64_t second)
{
    uint64_t found = (first ^ second * 0xC2B2AE3D27D4EB4Fu) * 0x9E3779B97F4A7C15u;
    return found ^ found >> 32;
}

static inline uint64_t hash_of(const unsigned char *bytes, size_t length, uint64_t first, uint64_t second)
{
    uint64_t found = mixed(first, second);
    for (size_t at = 16; at < length; at += 8)
        found = mixed(found, word_at(bytes + at, length - at));
    return found * 0xC2B2AE3D27D4EB4Fu;
}

static int grow_slots(Table *table)
{
    size_t room = (table->mask + 1) * 2;
    uint64_t *slots = calloc(room, sizeof *slots);
    if (!slots)
        return -1;
    for (size_t number = 0; number < table->size; number++) {
        Entry entry = table->entries[number];
        uint64_t hash = hash_of(table->pool + entry.offset, entry.length, entry.first, entry.second);
        size_t place = hash >> 32 & (room - 1);
        while (slots[place])
            place = (place + 1) & (room - 1);
        slots[place] = hash << 32 | (number + 1);
    }
    free(table->slots);
    table->slots = slots;
    table->mask = room - 1;
    return 0;
}

static int insert(Table *table, const unsigned char *bytes, size_t length, uint64_t first, uint64_t second)
{
    if (table->size == table->room) {
        size_t room = table->room * 2;
        Entry *entries = realloc(table->entries, room * sizeof *entries);
        if (!entries)
            return -1;
        table->entries = entries;
        table->room = room;
    }
    if (table->pool_size + length + 8 > table->pool_room) {
        size_t room = table->pool_room * 2 + length;
        unsigned char *pool = realloc(table->pool, room);
        if (!pool)
            return -1;
        table->pool = pool;
        table->pool_room = room;
    }
    memcpy(table->pool + table->pool_size, bytes, length);
    table->entries[table->size] = (Entry){first, second, table->pool_size, 0, (uint32_t)length};
    table->pool_size += length;
    table->size++;
    return 0;
}

/* The number of a string, a new one for a new string; -1 if memory runs out. */
static inline int64_t number_of(
    Table *table, const unsigned char *bytes, size_t length, uint64_t hash, uint64_t first, uint64_t second)
{
    size_t place = hash >> 32 & table->mask;
    uint32_t below = (uint32_t)hash;
    uint64_t slot;
    while ((slot = table->slots[place])) {
        if (slot >> 32 == below) {
            const Entry *entry = &table->entries[(slot & 0xFFFFFFFFu) - 1];
            if (entry->first == first && entry->second == second && entry->length == length
                && (length <= 16 || memcmp(table->pool + entry->offset + 16, bytes + 16, length - 16) == 0))
                return (int64_t)(slot & 0xFFFFFFFFu) - 1;
        }
        place = (place + 1) & table->mask;
    }
    if (table->size >= 0x7FFFFFFEu || insert(table, bytes, length, first, second) < 0)
        return -1;
    table->slots[place] = (uint64_t)below << 32 | table->size;
    if (table->size * 2 > table->mask && grow_slots(table) < 0)
        return -1;
    return (int64_t)table->size - 1;
}

static PyObject *table_new(PyTypeObject *type, PyObject *args, PyObject *named)
{
    Table *table = (Table *)type->tp_alloc(type, 0);
    if (!table)
        return NULL;
    table->mask = (1 << 16) - 1;
    table->room = 1 << 12;
    table->pool_room = 1 << 16;
    table->slots = calloc(table->mask + 1, sizeof *table->slots);
    table->entries = malloc(table->room * sizeof *table->entries);
    table->pool = calloc(table->pool_room, 1);
    if (!table->slots || !table->entries || !table->pool) {
        Py_DECREF(table);
        return PyErr_NoMemory();
    }
    return (PyObject *)table;
}

static void table_dealloc(Table *table)
{
    free(table->met);
    free(table->inside);
    free(table->slots);
    free(table->entries);
    free(table->pool);
    PyTypeObject *type = Py_TYPE(table);
    type->tp_free((PyObject *)table);
    /* an object of a type that is made at run time holds on to it */
    Py_DECREF(type);
}

/* Whether no thread counts in a table; an error if one does. */
static int is_free(const Table *table)
{
    if (table->is_busy)
        PyErr_SetString(PyExc_RuntimeError, "the table is in use in another thread");
    return !table->is_busy;
}

static Py_ssize_t table_length(Table *table)
{
    return (Py_ssize_t)table->size;
}

#define AT_ONCE 32
#ifdef __GNUC__
#define SOON(place) __builtin_prefetch(place)
#else
#define SOON(place)
#endif

/* The numbers of some strings: where they may lie is asked for before it is looked at. */
static int64_t number_some(
    Table *table, const unsigned char *data, const int64_t *starts, const int64_t *lengths, int32_t *found, size_t some)
{
    uint64_t hashes[AT_ONCE], firsts[AT_ONCE], seconds[AT_ONCE];
    for (size_t at = 0; at < some; at++) {
        const unsigned char *bytes = data + starts[at];
        size_t length = (size_t)lengths[at];
        firsts[at] = word_at(bytes, length);
        seconds[at] = length > 8 ? word_at(bytes + 8, length - 8) : 0;
        hashes[at] = hash_of(bytes, length, firsts[at], seconds[at]);
        SOON(&table->slots[hashes[at] >> 32 & table->mask]);
    }
    for (size_t at = 0; at < some; at++) {
        uint64_t slot = table->slots[hashes[at] >> 32 & table->mask];
        if (slot)
            SOON(&table->entries[(slot & 0xFFFFFFFFu) - 1]);
    }
    for (size_t at = 0; at < some; at++) {
        int64_t number = number_of(
            table, data + starts[at], (size_t)lengths[at], hashes[at], firsts[at], seconds[at]);
        if (number < 0)
            return -1;
        found[at] = (int32_t)number;
    }
    return 0;
}

/* number(data, starts, lengths, found): int64, int64; int32 is written. Eight bytes must follow the last string. */
static PyObject *table_number(Table *table, PyObject *args)
{
    Py_buffer held[4];
    if (!is_free(table) || !PyArg_ParseTuple(args, "y*y*y*w*", &held[0], &held[1], &held[2], &held[3]))
        return NULL;
    if (!are_arrays(held, "1884")) {
        release(held, 4);
        return NULL;
    }
    size_t size = held[1].len / sizeof(int64_t);
    const int64_t *starts = held[1].buf, *lengths = held[2].buf;
    const char *wrong = NULL;
    if (held[2].len != held[1].len || held[3].len / sizeof(int32_t) != size)
        wrong = "arrays of different lengths";
    for (size_t at = 0; at < size && !wrong; at++)
        if (starts[at] < 0 || lengths[at] < 0 || lengths[at] > 0x7FFFFFFF || starts[at] > held[0].len - lengths[at] - 8)
            wrong = "a string outside its data";
    if (wrong) {
        release(held, 4);
        PyErr_SetString(PyExc_ValueError, wrong);
        return NULL;
    }
    int64_t done = 0;
    table->is_busy = 1;
    Py_BEGIN_ALLOW_THREADS
    for (size_t at = 0; at < size && done == 0; at += AT_ONCE) {
        size_t some = size - at < AT_ONCE ? size - at : AT_ONCE;
        done = number_some(table, held[0].buf, starts + at, lengths + at, (int32_t *)held[3].buf + at, some);
    }
    Py_END_ALLOW_THREADS
    table->is_busy = 0;
    release(held, 4);
    if (done < 0)
        return PyErr_NoMemory();
    Py_RETURN_NONE;
}

/* The first four of some buffers as a text, which ends in eight zeros, and what its bytes are; -1 with an error if they
   are not valid. Eight bytes are read at a time, and lengths have 32 bits. */
static int text_from(Py_buffer *held, Text *text)
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

/* Where counting goes: the documents of a block, and what was found in those that are done. */
typedef struct {
    const int64_t *ends;
    int64_t *different;
    size_t documents, document;
    int32_t *cells; /* number and times, one after the other */
    size_t size, room;
} Counted;

/* Take over what was counted in a document; 0, or -1 if memory runs out. */
static int finish_document(Table *table, Counted *counted)
{
    if (counted->size + 2 * table->met_size > counted->room) {
        size_t room = 2 * (counted->size + 2 * table->met_size) + 1024;
        int32_t *cells = realloc(counted->cells, room * sizeof *cells);
        if (!cells)
            return -1;
        counted->cells = cells;
        counted->room = room;
    }
    for (size_t at = 0; at < table->met_size; at++) {
        Entry *entry = &table->entries[table->met[at]];
        counted->cells[counted->size++] = (int32_t)table->met[at];
        counted->cells[counted->size++] = (int32_t)entry->times;
        entry->times = 0;
    }
    counted->different[counted->document++] = (int64_t)table->met_size;
    table->met_size = 0;
    return 0;
}

/* Count some runs, of the documents in whose texts they begin; -1 if memory runs out. */
static int count_some(
    Table *table, const unsigned char *data, const int64_t *starts, const int64_t *lengths, size_t some,
    Counted *counted)
{
    int32_t found[AT_ONCE];
    if (number_some(table, data, starts, lengths, found, some) < 0)
        return -1;
    if (table->met_size + some > table->met_room) {
        size_t room = 2 * (table->met_room + AT_ONCE);
        uint32_t *met = realloc(table->met, room * sizeof *met);
        if (!met)
            return -1;
        table->met = met;
        table->met_room = room;
    }
    for (size_t at = 0; at < some; at++) {
        while (counted->document < counted->documents && starts[at] >= counted->ends[counted->document])
            if (finish_document(table, counted) < 0)
                return -1;
        if (table->entries[found[at]].times++ == 0)
            table->met[table->met_size++] = (uint32_t)found[at];
    }
    return 0;
}

/* Count the runs of a text; how many there are, or -1 if memory runs out. */
static int64_t count_runs(Table *table, Text text, Counted *counted)
{
    if (table->inside_room < text.size + 16) {
        free(table->inside);
        table->inside_room = 2 * text.size + 16;
        table->inside = malloc(table->inside_room);
        if (!table->inside) {
            table->inside_room = 0;
            return -1;
        }
    }
    mark_runs(text, table->inside);
    int64_t starts[AT_ONCE], lengths[AT_ONCE], number = 0;
    size_t some = 0;
    uint64_t before = 0;
    int within = 0;
    for (size_t at = 0; at < text.size; at += 8) {
        uint64_t changes = changes_at(table->inside + at, &before);
        while (changes) {
            int64_t place = (int64_t)at + 1 + LOWEST(changes);
            changes &= changes - 1;
            if (within) {
                lengths[some] = place - starts[some];
                some++;
            }
            else
                starts[some] = place;
            within = !within;
            if (some == AT_ONCE) {
                if (count_some(table, text.data, starts, lengths, some, counted) < 0)
                    return -1;
                number += AT_ONCE;
                some = 0;
            }
        }
    }
    return count_some(table, text.data, starts, lengths, some, counted) < 0 ? -1 : number + (int64_t)some;
}

/* count(data, kinds, latin, wide) -> how many: adds up how often each run stands in a text that ends in 8 zeros. */
static PyObject *table_count(Table *table, PyObject *args)
{
    Py_buffer held[4];
    Text text;
    Counted counted = {0};
    int64_t number = 0;
    if (!is_free(table) || !PyArg_ParseTuple(args, "y*y*y*y*", &held[0], &held[1], &held[2], &held[3]))
        return NULL;
    int fits = text_from(held, &text) == 0;
    if (fits) {
        table->is_busy = 1;
        Py_BEGIN_ALLOW_THREADS
        number = count_runs(table, text, &counted);
        Py_END_ALLOW_THREADS
        table->is_busy = 0;
    }
    release(held, 4);
    if (!fits)
        return NULL;
    return number < 0 ? PyErr_NoMemory() : PyLong_FromLongLong(number);
}

/* count_each(data, kinds, latin, wide, ends, different) -> how many, cells: for texts that end at `ends`, int64, one
   after the other; how many different runs each has is written, int64; cells are numbers and times, int32. */
static PyObject *table_count_each(Table *table, PyObject *args)
{
    Py_buffer held[6];
    Text text;
    if (!is_free(table)
        || !PyArg_ParseTuple(args, "y*y*y*y*y*w*", &held[0], &held[1], &held[2], &held[3], &held[4], &held[5]))
        return NULL;
    PyObject *found = NULL;
    if (!are_arrays(held, "111188"))
        ;
    else if (held[4].len != held[5].len || table->met_size)
        PyErr_SetString(PyExc_ValueError, "arrays of different lengths, or counts that were not taken");
    else if (text_from(held, &text) == 0) {
        Counted counted = {held[4].buf, held[5].buf, (size_t)held[4].len / sizeof(int64_t), 0, NULL, 0, 0};
        int64_t number;
        table->is_busy = 1;
        Py_BEGIN_ALLOW_THREADS
        number = count_runs(table, text, &counted);
        while (number >= 0 && counted.document < counted.documents)
            if (finish_document(table, &counted) < 0)
                number = -1;
        Py_END_ALLOW_THREADS
        table->is_busy = 0;
        if (number < 0)
            PyErr_NoMemory();
        else
            found = Py_BuildValue(
                "LN", (long long)number,
                PyBytes_FromStringAndSize((char *)counted.cells, (Py_ssize_t)(counted.size * sizeof(int32_t))));
        free(counted.cells);
    }
    release(held, 6);
    return found;
}

/* met() -> of how many strings some were counted. */
static PyObject *table_met(Table *table, PyObject *nothing)
{
    return is_free(table) ? PyLong_FromSize_t(table->met_size) : NULL;
}

/* take(numbers, times): int32 and int64 are written, what was counted; from then on it is counted anew. */
static PyObject *table_take(Table *table, PyObject *args)
{
    Py_buffer held[2];
    if (!is_free(table) || !PyArg_ParseTuple(args, "w*w*", &held[0], &held[1]))
        return NULL;
    size_t size = table->met_size;
    int are = are_arrays(held, "48");
    int fits = are && (size_t)held[0].len == size * sizeof(int32_t) && (size_t)held[1].len == size * sizeof(int64_t);
    if (fits) {
        for (size_t at = 0; at < size; at++) {
            Entry *entry = &table->entries[table->met[at]];
            ((int32_t *)held[0].buf)[at] = (int32_t)table->met[at];
            ((int64_t *)held[1].buf)[at] = (int64_t)entry->times;
            entry->times = 0;
        }
        table->met_size = 0;
    }
    release(held, 2);
    if (!fits) {
        if (are)
            PyErr_SetString(PyExc_ValueError, "arrays of another length");
        return NULL;
    }
    Py_RETURN_NONE;
}

static int check_numbers(Table *table, const int64_t *numbers, size_t size)
{
    for (size_t at = 0; at < size; at++)
        if (numbers[at] < 0 || (uint64_t)numbers[at] >= table->size) {
            PyErr_SetString(PyExc_IndexError, "no such number");
            return -1;
        }
    return 0;
}

/* spelled(numbers, lengths): bytes, a line feed after each string; int64 lengths are written. */
static PyObject *table_spelled(Table *table, PyObject *args)
{
    Py_buffer held[2];
    if (!is_free(table) || !PyArg_ParseTuple(args, "y*w*", &held[0], &held[1]))
        return NULL;
    size_t size = held[0].len / sizeof(int64_t), total = 0;
    const int64_t *numbers = held[0].buf;
    int64_t *lengths = held[1].buf;
    PyObject *found = NULL;
    if (!are_arrays(held, "88"))
        ;
    else if (held[1].len != held[0].len)
        PyErr_SetString(PyExc_ValueError, "arrays of different lengths");
    else if (check_numbers(table, numbers, size) == 0) {
        for (size_t at = 0; at < size; at++) {
            SOON(&table->entries[numbers[at + AT_ONCE < size ? at + AT_ONCE : at]]);
            lengths[at] = table->entries[numbers[at]].length;
            total += (size_t)lengths[at] + 1;
            if (total > (size_t)PY_SSIZE_T_MAX >> 1)
                break;
        }
        found = total > (size_t)PY_SSIZE_T_MAX >> 1 ? PyErr_NoMemory()
                                                    : PyBytes_FromStringAndSize(NULL, (Py_ssize_t)total);
    }
    if (found) {
        char *out = PyBytes_AS_STRING(found);
        for (size_t at = 0; at < size; at++) {
            SOON(&table->entries[numbers[at + AT_ONCE < size ? at + AT_ONCE : at]]);
            const Entry *entry = &table->entries[numbers[at]];
            /* most strings are short, and stand with their entry */
            if (entry->length <= 16)
                memcpy(out, &entry->first, entry->length);
            else
                memcpy(out, table->pool + entry->offset, entry->length);
            out += entry->length;
            *out++ = '\n';
        }
    }
    release(held, 2);
    return found;
}

typedef struct {
    uint64_t key;
    const unsigned char *rest;
    uint32_t length;
    uint32_t number;
} Keyed;

static int compare_rest(const void *one, const void *other)
{
    const Keyed *a = one, *b = other;
    uint32_t shorter = a->length < b->length ? a->length : b->length;
    int found = shorter ? memcmp(a->rest, b->rest, shorter) : 0;
    return found ? found : (a->length > b->length) - (a->length < b->length);
}

/* ordered(numbers): the int64 numbers, put in the order of their strings' bytes in place. */
static PyObject *table_ordered(Table *table, PyObject *args)
{
    Py_buffer held[1];
    if (!is_free(table) || !PyArg_ParseTuple(args, "w*", &held[0]))
        return NULL;
    if (!are_arrays(held, "8")) {
        release(held, 1);
        return NULL;
    }
    size_t size = held[0].len / sizeof(int64_t);
    int64_t *numbers = held[0].buf;
    Keyed *some = malloc((size + 1) * sizeof *some), *others = malloc((size + 1) * sizeof *others);
    if (!some || !others || check_numbers(table, numbers, size) < 0) {
        free(some);
        free(others);
        release(held, 1);
        return PyErr_Occurred() ? NULL : PyErr_NoMemory();
    }
    for (size_t at = 0; at < size; at++) {
        SOON(&table->entries[numbers[at + AT_ONCE < size ? at + AT_ONCE : at]]);
        Entry entry = table->entries[numbers[at]];
        const unsigned char *bytes = table->pool + entry.offset;
        uint32_t begin = entry.length < 8 ? entry.length : 8;
        uint64_t key = 0;
        for (uint32_t byte = 0; byte < begin; byte++)
            key |= (entry.first >> 8 * byte & 0xFF) << (56 - 8 * byte);
        some[at] = (Keyed){key, bytes + begin, entry.length - begin, (uint32_t)numbers[at]};
    }
    /* a pass for each byte of the first eight, from the last one on */
    for (int shift = 0; shift < 64; shift += 8) {
        size_t counts[257] = {0};
        for (size_t at = 0; at < size; at++)
            counts[((some[at].key >> shift) & 0xFF) + 1]++;
        for (int value = 0; value < 256; value++)
            counts[value + 1] += counts[value];
        for (size_t at = 0; at < size; at++)
            others[counts[(some[at].key >> shift) & 0xFF]++] = some[at];
        Keyed *swapped = some;
        some = others;
        others = swapped;
    }
    for (size_t first = 0, after; first < size; first = after) {
        for (after = first + 1; after < size && some[after].key == some[first].key; after++)
            ;
        if (after - first > 1)
            qsort(some + first, after - first, sizeof *some, compare_rest);
    }
    for (size_t at = 0; at < size; at++)
        numbers[at] = some[at].number;
    free(some);
    free(others);
    release(held, 1);
    Py_RETURN_NONE;
}

static PyMethodDef table_methods[] = {
    {"number", (PyCFunction)table_number, METH_VARARGS, "Write the numbers of strings."},
    {"count", (PyCFunction)table_count, METH_VARARGS, "Count the runs of a text."},
    {"count_each", (PyCFunction)table_count_each, METH_VARARGS, "Count the runs of each of some texts."},
    {"met", (PyCFunction)table_met, METH_NOARGS, "How many different runs were counted."},
    {"take", (PyCFunction)table_take, METH_VARARGS, "How often each run was counted."},
    {"spelled", (PyCFunction)table_spelled, METH_VARARGS, "The strings of numbers."},
    {"ordered", (PyCFunction)table_ordered, METH_VARARGS, "Put numbers in the order of their strings."},
    {NULL, NULL, 0, NULL},
};

static PyType_Slot table_slots[] = {
    {Py_tp_new, table_new},
    {Py_tp_dealloc, table_dealloc},
    {Py_tp_methods, table_methods},
    {Py_sq_length, table_length},
    {Py_tp_doc, "Strings of bytes and their numbers."},
    {0, NULL},
};

static PyType_Spec table_spec = {
    "millstone.core._compiled.Table", sizeof(Table), 0, Py_TPFLAGS_DEFAULT, table_slots};

/* runs(data, kinds, latin, wide, starts, lengths) -> how many: int64 are written, at most half as many as bytes. */
static PyObject *runs(PyObject *self, PyObject *args)
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

/* ---- rows of a matrix ---- */

#define FEW 40
#define FEW_NEARLY_IN_ORDER 160

/* Put some cells, a column above and a value below, in the order of their columns, below 2^31; `others` has room for
   as many. The result is in one of the two. */
static uint64_t *in_order(uint64_t *cells, uint64_t *others, size_t size, uint32_t widest)
{
    size_t descents = 0;
    for (size_t at = 1; at < size; at++)
        descents += cells[at - 1] > cells[at];
    if (descents == 0)
        return cells;
    if (size <= FEW || (size <= FEW_NEARLY_IN_ORDER && descents <= 3)) {
        for (size_t at = 1; at < size; at++) {
            uint64_t cell = cells[at];
            size_t place = at;
            for (; place > 0 && cells[place - 1] > cell; place--)
                cells[place] = cells[place - 1];
            cells[place] = cell;
        }
        return cells;
    }
    /* a pass for each byte of a column, from the last one on */
    for (int shift = 32; shift < 64 && widest >> (shift - 32); shift += 8) {
        size_t counts[257] = {0};
        for (size_t at = 0; at < size; at++)
            counts[((cells[at] >> shift) & 0xFF) + 1]++;
        for (int value = 0; value < 256; value++)
            counts[value + 1] += counts[value];
        for (size_t at = 0; at < size; at++)
            others[counts[(cells[at] >> shift) & 0xFF]++] = cells[at];
        uint64_t *swapped = cells;
        cells = others;
        others = swapped;
    }
    return cells;
}

/* A matrix that is read, row by row, and where its cells go. */
typedef struct {
    const int32_t *data, *indices, *column_of;
    const int64_t *ends;
    size_t rows, columns;
    int32_t *new_data, *new_indices;
    int64_t *new_ends;
} Moved;

/* Move the cells to other columns, those of one place added up; -1 if memory runs out, -2 for a column too many, -4 for a
   sum that has more than 32 bits. */
static int move_cells(Moved moved)
{
    size_t longest = 1, written = 0;
    for (size_t row = 0; row < moved.rows; row++)
        if ((size_t)(moved.ends[row + 1] - moved.ends[row]) > longest)
            longest = (size_t)(moved.ends[row + 1] - moved.ends[row]);
    uint64_t *cells = malloc(longest * sizeof *cells), *others = malloc(longest * sizeof *others);
    int done = cells && others ? 0 : -1;
    moved.new_ends[0] = 0;
    for (size_t row = 0; row < moved.rows && !done; row++) {
        size_t size = 0;
        uint32_t widest = 0;
        for (int64_t at = moved.ends[row]; at < moved.ends[row + 1]; at++) {
            uint32_t old = (uint32_t)moved.indices[at];
            if (old >= moved.columns) {
                done = -2;
                break;
            }
            int32_t column = moved.column_of[old];
            if (column < 0 || moved.data[at] == 0)
                continue;
            widest |= (uint32_t)column;
            cells[size++] = (uint64_t)(uint32_t)column << 32 | (uint32_t)moved.data[at];
        }
        uint64_t *sorted = in_order(cells, others, size, widest);
        for (size_t at = 0; at < size; at++) {
            int32_t column = (int32_t)(sorted[at] >> 32);
            if (at && column == (int32_t)(sorted[at - 1] >> 32)) {
                int64_t sum = (int64_t)moved.new_data[written - 1] + (int32_t)(uint32_t)sorted[at];
                if (sum > INT32_MAX || sum < INT32_MIN)
                    done = -4;
                moved.new_data[written - 1] = (int32_t)(uint32_t)sum;
            }
            else {
                moved.new_indices[written] = column;
                moved.new_data[written++] = (int32_t)(uint32_t)sorted[at];
            }
        }
        moved.new_ends[row + 1] = (int64_t)written;
    }
    free(cells);
    free(others);
    return done;
}

/* sums(data, indices, totals): int32, int32; int64 are added to, the values of each column. */
static PyObject *sums(PyObject *self, PyObject *args)
{
    Py_buffer held[3];
    if (!PyArg_ParseTuple(args, "y*y*w*", &held[0], &held[1], &held[2]))
        return NULL;
    if (!are_arrays(held, "448")) {
        release(held, 3);
        return NULL;
    }
    const int32_t *data = held[0].buf, *indices = held[1].buf;
    int64_t *totals = held[2].buf;
    size_t cells = held[0].len / sizeof(int32_t), columns = held[2].len / sizeof(int64_t), at = 0;
    if (held[1].len == held[0].len)
        while (at < cells && (uint32_t)indices[at] < columns) {
            totals[indices[at]] += data[at];
            at++;
        }
    int fits = at == cells && held[1].len == held[0].len;
    release(held, 3);
    if (!fits) {
        PyErr_SetString(PyExc_ValueError, "arrays that do not fit together");
        return NULL;
    }
    Py_RETURN_NONE;
}

/* moved(data, indices, ends, column_of, new_data, new_indices, new_ends): int32 and, for ends, int64; the last three
   are written. The ends rise from 0 to the number of cells. */
static PyObject *moved(PyObject *self, PyObject *args)
{
    Py_buffer held[7];
    if (!PyArg_ParseTuple(
            args, "y*y*y*y*w*w*w*", &held[0], &held[1], &held[2], &held[3], &held[4], &held[5], &held[6]))
        return NULL;
    size_t cells = held[0].len / sizeof(int32_t), rows = held[2].len / sizeof(int64_t);
    const int64_t *ends = held[2].buf;
    int done = -3;
    if (!are_arrays(held, "4484448"))
        done = -5;
    else if (rows && held[1].len == held[0].len && held[4].len == held[0].len && held[5].len == held[0].len
        && held[6].len == held[2].len && ends[0] == 0 && (size_t)ends[rows - 1] == cells) {
        size_t row = 1;
        while (row < rows && ends[row] >= ends[row - 1])
            row++;
        if (row == rows) {
            Moved asked = {
                held[0].buf, held[1].buf, held[3].buf, ends, rows - 1, (size_t)held[3].len / sizeof(int32_t),
                held[4].buf, held[5].buf, held[6].buf};
            Py_BEGIN_ALLOW_THREADS
            done = move_cells(asked);
            Py_END_ALLOW_THREADS
        }
    }
    release(held, 7);
    if (done == -1)
        return PyErr_NoMemory();
    if (done == -4)
        PyErr_SetString(PyExc_OverflowError, "a sum that has more than 32 bits");
    else if (done && done != -5)
        PyErr_SetString(PyExc_ValueError, done == -2 ? "no such column" : "arrays that do not fit together");
    if (done)
        return NULL;
    Py_RETURN_NONE;
}

/* ---- cells of a delimited file ---- */

typedef struct {
    int64_t *values;
    size_t size, room;
} Growing;

static int append(Growing *some, int64_t value)
{
    if (some->size == some->room) {
        size_t room = 2 * some->room + 1024;
        int64_t *values = realloc(some->values, room * sizeof *values);
        if (!values)
            return -1;
        some->values = values;
        some->room = room;
    }
    some->values[some->size++] = value;
    return 0;
}

/* What was found of a delimited file: start and length of each cell, one after the other, and the cells of each row. */
typedef struct {
    const unsigned char *data;
    size_t size;
    unsigned char delimiter, quote;
    int is_last; /* whether nothing follows the data */
    Growing cells, widths;
} Delimited;

enum { NO_MEMORY = -1, ODD = -2, INCOMPLETE = -3 };

/* Where the cell ends that begins at a place, and its start and length are added; below 0 if that is not known. */
static int64_t add_cell(Delimited *file, size_t at)
{
    const unsigned char *data = file->data;
    size_t size = file->size, start = at;
    if (at < size && data[at] == file->quote) {
        start = ++at;
        for (;;) {
            const unsigned char *found = at < size ? memchr(data + at, file->quote, size - at) : NULL;
            if (!found || (found + 1 == data + size && !file->is_last))
                return file->is_last ? ODD : INCOMPLETE;
            at = (size_t)(found - data) + 1;
            if (at == size || data[at] != file->quote)
                break;
            at++;
        }
        if (append(&file->cells, (int64_t)start) < 0 || append(&file->cells, (int64_t)(at - 1 - start)) < 0)
            return NO_MEMORY;
        return (int64_t)at;
    }
    while (at < size && data[at] != file->delimiter && data[at] != '\n' && data[at] != '\r')
        at++;
    if (at == size && !file->is_last)
        return INCOMPLETE;
    if (append(&file->cells, (int64_t)start) < 0 || append(&file->cells, (int64_t)(at - start)) < 0)
        return NO_MEMORY;
    return (int64_t)at;
}

/* Where the row ends that begins at a place, its line end included; below 0 if that is not known. */
static int64_t add_row(Delimited *file, size_t at)
{
    const unsigned char *data = file->data;
    int64_t width = 0;
    int is_empty = data[at] == '\n' || data[at] == '\r';
    while (!is_empty) {
        int64_t end = add_cell(file, at);
        if (end < 0)
            return end;
        width++;
        at = (size_t)end;
        if (at == file->size || data[at] != file->delimiter)
            break;
        at++;
    }
    if (append(&file->widths, width) < 0)
        return NO_MEMORY;
    if (at == file->size)
        return (int64_t)at;
    if (data[at] == '\n')
        return (int64_t)at + 1;
    if (data[at] != '\r')
        return ODD;
    if (at + 1 == file->size)
        return file->is_last ? ODD : INCOMPLETE;
    return data[at + 1] == '\n' ? (int64_t)at + 2 : ODD;
}

/* rows(data, delimiter, quote, is_last) -> None where something is odd, else how many bytes have whole rows, their cells,
   pairs of int64, and how many of them each row has, int64. */
static PyObject *rows(PyObject *self, PyObject *args)
{
    Py_buffer held[1];
    Delimited file = {0};
    if (!PyArg_ParseTuple(args, "y*bbp", &held[0], &file.delimiter, &file.quote, &file.is_last))
        return NULL;
    file.data = held[0].buf;
    file.size = (size_t)held[0].len;
    size_t whole = 0;
    int64_t end = 0;
    Py_BEGIN_ALLOW_THREADS
    while (whole < file.size) {
        size_t cells = file.cells.size, widths = file.widths.size;
        end = add_row(&file, whole);
        if (end < 0) {
            file.cells.size = cells;
            file.widths.size = widths;
            break;
        }
        whole = (size_t)end;
    }
    Py_END_ALLOW_THREADS
    release(held, 1);
    PyObject *found = NULL;
    if (end == NO_MEMORY)
        PyErr_NoMemory();
    else if (end == ODD)
        found = Py_NewRef(Py_None);
    else
        found = Py_BuildValue(
            "nNN", (Py_ssize_t)whole,
            PyBytes_FromStringAndSize((char *)file.cells.values, (Py_ssize_t)(file.cells.size * sizeof(int64_t))),
            PyBytes_FromStringAndSize((char *)file.widths.values, (Py_ssize_t)(file.widths.size * sizeof(int64_t))));
    free(file.cells.values);
    free(file.widths.values);
    return found;
}

/* joined(data, quote, starts, lengths, ends): some cells one after the other, a zero after each, of which the places
   are written, int64; double marks within quotation marks become single ones. */
static PyObject *joined(PyObject *self, PyObject *args)
{
    Py_buffer held[4];
    unsigned char quote;
    if (!PyArg_ParseTuple(args, "y*by*y*w*", &held[0], &quote, &held[1], &held[2], &held[3]))
        return NULL;
    const unsigned char *data = held[0].buf;
    size_t size = held[1].len / sizeof(int64_t), total = 0;
    const int64_t *starts = held[1].buf, *lengths = held[2].buf;
    int are = 0, fits = held[2].len == held[1].len && held[3].len == held[1].len;
    {
        Py_buffer arrays[3] = {held[1], held[2], held[3]};
        are = are_arrays(arrays, "888");
    }
    for (size_t at = 0; at < size && are && fits; at++) {
        fits = starts[at] >= 0 && lengths[at] >= 0 && starts[at] <= held[0].len - lengths[at];
        total += (size_t)lengths[at] + 1;
        fits = fits && total <= (size_t)PY_SSIZE_T_MAX >> 1;
    }
    PyObject *found = NULL;
    if (!are)
        ;
    else if (!fits)
        PyErr_SetString(PyExc_ValueError, "a cell outside its data");
    else
        found = PyBytes_FromStringAndSize(NULL, (Py_ssize_t)total);
    if (found) {
        char *begin = PyBytes_AS_STRING(found), *out = begin;
        for (size_t at = 0; at < size; at++) {
            const unsigned char *cell = data + starts[at], *end = cell + lengths[at];
            int is_quoted = starts[at] > 0 && cell[-1] == quote;
            while (cell < end) {
                const unsigned char *mark = is_quoted ? memchr(cell, quote, (size_t)(end - cell)) : NULL;
                size_t length = (size_t)((mark ? mark + 1 : end) - cell);
                memcpy(out, cell, length);
                out += length;
                cell += length + (mark != NULL);
            }
            ((int64_t *)held[3].buf)[at] = out - begin;
            *out++ = 0;
        }
        _PyBytes_Resize(&found, out - begin);
    }
    release(held, 4);
    return found;
}

/* ---- characters ---- */

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

static PyObject *whole(PyObject *self, PyObject *args)
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

static PyMethodDef functions[] = {
    {"moved", moved, METH_VARARGS, "Write the cells of a matrix under other columns."},
    {"sums", sums, METH_VARARGS, "Add up the values of each column."},
    {"rows", rows, METH_VARARGS, "Where the cells of a delimited file are."},
    {"joined", joined, METH_VARARGS, "Some cells one after the other."},
    {"whole", whole, METH_VARARGS, "How many bytes are whole characters of UTF-8; -1 where one is wrong."},
    {"runs", runs, METH_VARARGS, "Write where the runs of a text start, and how long they are."},
    {NULL, NULL, 0, NULL},
};

static int fill(PyObject *module)
{
    PyObject *type = PyType_FromSpec(&table_spec);
    int done = type ? PyModule_AddObjectRef(module, "Table", type) : -1;
    Py_XDECREF(type);
    return done < 0 ? -1 : PyModule_AddIntConstant(module, "INTERFACE", INTERFACE);
}

static PyModuleDef_Slot slots[] = {{Py_mod_exec, fill}, {0, NULL}};

static struct PyModuleDef module = {
    PyModuleDef_HEAD_INIT, "_compiled", "Runs and numbers of strings, compiled.", 0, functions, slots, NULL, NULL, NULL};

PyMODINIT_FUNC PyInit__compiled(void)
{
    return PyModuleDef_Init(&module);
}
