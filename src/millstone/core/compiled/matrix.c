/* Rows of a sparse matrix; the same with arrays is in `cells.py`. */

#include "parts.h"

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
PyObject *sums(PyObject *self, PyObject *args)
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
PyObject *moved(PyObject *self, PyObject *args)
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
