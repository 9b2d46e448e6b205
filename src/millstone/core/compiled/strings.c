/* Numbers for byte strings; the same with arrays is in `numbering.py`. */

#include "strings.h"

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
    Table *table = (Table *)PyType_GenericAlloc(type, 0);
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
    PyTypeObject *type = Py_TYPE((PyObject *)table);
    ((freefunc)PyType_GetSlot(type, Py_tp_free))(table);
    /* an object of a type that is made at run time holds on to it */
    Py_DECREF(type);
}

int is_free(const Table *table)
{
    if (table->is_busy)
        PyErr_SetString(PyExc_RuntimeError, "the table is in use in another thread");
    return !table->is_busy;
}

static Py_ssize_t table_length(Table *table)
{
    return (Py_ssize_t)table->size;
}

/* Where the strings may lie is asked for before it is looked at. */
int64_t number_some(
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
        char *out = PyBytes_AsString(found);
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

PyType_Spec table_spec = {
    "millstone.core._compiled.Table", sizeof(Table), 0, Py_TPFLAGS_DEFAULT, table_slots};
