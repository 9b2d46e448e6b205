"""Two special functions, to the last digit those of SciPy, without the time that its import takes.

Both are made of rational functions, in the order in which the Cephes library computes them. Exponentials and
logarithms come from the C library one by one: those of arrays may differ in the last digit.

References
----------
Moshier, S. L. (1989). Methods and programs for mathematical functions. Cody, W. J. (1969). Rational Chebyshev
approximations for the error function.
"""

import math
from collections.abc import Callable, Sequence

import numpy as np

_LEAST_EXPONENT = -7.09782712893383996843e2
_ERF = (
    (9.604973739870516, 90.02601972038427, 2232.005345946843, 7003.325141128051, 55592.30130103949),
    (1.0, 33.56171416475031, 521.3579497801527, 4594.323829709801, 22629.000061389095, 49267.39426086359),
)
_NEAR = (
    (
        2.461969814735305e-10,
        0.5641895648310689,
        7.463210564422699,
        48.63719709856814,
        196.5208329560771,
        526.4451949954773,
        934.5285271719576,
        1027.5518868951572,
        557.5353353693994,
    ),
    (
        1.0,
        13.228195115474499,
        86.70721408859897,
        354.9377788878199,
        975.7085017432055,
        1823.9091668790973,
        2246.3376081871097,
        1656.6630919416134,
        557.5353408177277,
    ),
)
_FAR = (
    (
        0.5641895835477551,
        1.275366707599781,
        5.019050422511805,
        6.160210979930536,
        7.4097426995044895,
        2.9788666537210022,
    ),
    (
        1.0,
        2.2605286322011726,
        9.396035249380015,
        12.048953980809666,
        17.08144507475659,
        9.608968090632859,
        3.369076451000815,
    ),
)
_LOG = (
    (
        4.52700008624452e-05,
        0.49854102823193375,
        6.578732594206104,
        29.911919328553072,
        60.94966798098779,
        57.11296359058554,
        20.039553499201283,
    ),
    (
        1.0,
        15.062909083469192,
        83.04756596796722,
        221.76239823732857,
        309.09872225312057,
        216.42788614495947,
        60.11866049760384,
    ),
)


def erfc(x: np.ndarray) -> np.ndarray:
    """The complementary error function, ``1 - erf(x)``, of an array of any shape.

    Examples
    --------
    >>> erfc(np.array([0.0, 1.0, -1.0])).round(6).tolist()
    [1.0, 0.157299, 1.842701]
    """
    x = np.asarray(x, dtype=float)
    found = np.full(x.shape, np.nan)
    small = np.abs(x) < 1
    some = x[small]
    found[small] = 1.0 - some * _polynomial(some * some, _ERF[0]) / _polynomial(some * some, _ERF[1])
    large = np.abs(x) >= 1
    some, size = x[large], np.abs(x[large])
    exponent = -some * some
    with np.errstate(invalid="ignore", over="ignore"):
        scale = _one_by_one(math.exp, exponent)
        near, far = ((scale * _polynomial(size, p)) / _polynomial(size, q) for p, q in (_NEAR, _FAR))
        beyond = np.where(exponent < _LEAST_EXPONENT, 0.0, np.where(size < 8, near, far))
    found[large] = np.where(some < 0, 2.0 - beyond, beyond)
    return found


def log1p(x: np.ndarray) -> np.ndarray:
    """``ln(1 + x)``, (values,), x from -1; minus infinity for -1.

    Examples
    --------
    >>> log1p(np.array([-1.0, 0.0, 1.0])).round(6).tolist()
    [-inf, 0.0, 0.693147]
    """
    x = np.asarray(x, dtype=float)
    whole = 1.0 + x
    found = np.full(x.shape, np.nan)
    apart = (whole < math.sqrt(0.5)) | (whole > math.sqrt(2))
    found[apart] = _one_by_one(lambda value: math.log(value) if value else -math.inf, whole[apart])
    near = (whole >= math.sqrt(0.5)) & (whole <= math.sqrt(2))
    some = x[near]
    square = some * some
    with np.errstate(invalid="ignore"):
        ratio = some * (square * _polynomial(some, _LOG[0]) / _polynomial(some, _LOG[1]))
    found[near] = some + (-0.5 * square + ratio)
    return found


def _polynomial(x: np.ndarray, coefficients: Sequence[float]) -> np.ndarray:
    """The value of a polynomial whose coefficients are given from the highest power down (Horner)."""
    found = np.full(x.shape, coefficients[0])
    for one in coefficients[1:]:
        found = found * x + one
    return found


def _one_by_one(function: Callable[[float], float], x: np.ndarray) -> np.ndarray:
    return np.fromiter(map(function, x.tolist()), dtype=float, count=len(x))
