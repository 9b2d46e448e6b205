/* The compiled part: the hot loops, each of which arrays or Python do as well where no C compiler is present. */

#include "strings.h"

/* Of what functions take and give; `core/base/arrays.py` uses no other. Raise both with every change. */
#define INTERFACE 2

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
