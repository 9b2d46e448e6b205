/* Counts the runs of texts in a table of strings. */

#include "runs.h"
#include "strings.h"

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
PyObject *table_count(Table *table, PyObject *args)
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
PyObject *table_count_each(Table *table, PyObject *args)
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
PyObject *table_met(Table *table, PyObject *nothing)
{
    return is_free(table) ? PyLong_FromSize_t(table->met_size) : NULL;
}

/* take(numbers, times): int32 and int64 are written, what was counted; from then on it is counted anew. */
PyObject *table_take(Table *table, PyObject *args)
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
