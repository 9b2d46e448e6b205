/* What every file of the compiled part includes: the interface of Python, buffers, and what the files share. */

#ifndef MILLSTONE_PARTS_H
#define MILLSTONE_PARTS_H

#define PY_SSIZE_T_CLEAN
#include <Python.h>
#include <stdint.h>
#include <stdlib.h>
#include <string.h>

#if defined(__BYTE_ORDER__) && __BYTE_ORDER__ != __ORDER_LITTLE_ENDIAN__
#error "words are read with their lowest byte first; without this part the program is whole"
#endif

/* Functions of the module, each in the file of its job. */
PyObject *joined(PyObject *self, PyObject *args);
PyObject *moved(PyObject *self, PyObject *args);
PyObject *rows(PyObject *self, PyObject *args);
PyObject *runs(PyObject *self, PyObject *args);
PyObject *sums(PyObject *self, PyObject *args);
PyObject *whole(PyObject *self, PyObject *args);

static inline void release(Py_buffer *buffers, int number)
{
    for (int at = 0; at < number; at++)
        PyBuffer_Release(&buffers[at]);
}

/* Whether some buffers are arrays of numbers of so many bytes each, a digit for each buffer; an error if not. */
static inline int are_arrays(const Py_buffer *buffers, const char *sizes)
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

#endif
