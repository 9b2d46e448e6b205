/* Cells of a delimited file; the same in Python is in `delimited.py`. */

#include "parts.h"

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
PyObject *rows(PyObject *self, PyObject *args)
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
PyObject *joined(PyObject *self, PyObject *args)
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
    char *begin = NULL;
    if (are && !fits)
        PyErr_SetString(PyExc_ValueError, "a cell outside its data");
    else if (are && !(begin = malloc(total + 1)))
        PyErr_NoMemory();
    PyObject *found = NULL;
    if (begin) {
        char *out = begin;
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
        found = PyBytes_FromStringAndSize(begin, out - begin);
        free(begin);
    }
    release(held, 4);
    return found;
}
