"""Conjugate Bayesian regression: what is believed of some coefficients, before and after data."""

import math

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

Floats = NDArray[np.float64]


class Belief(Struct, frozen=True):
    """What is believed of the coefficients and of the scatter.

    Attributes
    ----------
    cov : array of shape (coefficients, coefficients)
        Covariance over the scatter's variance [-].
    shape, rate : float
        Of the scatter's precision, a gamma distribution.
    n : int
        Rows it was learned from [-].
    """

    mean: Floats
    cov: Floats
    shape: float
    rate: float
    n: int

    @property
    def scatter(self) -> float:
        """Likely scatter of rows that are alike, in the outcome's unit."""
        return math.sqrt(self.rate / self.shape)

    @property
    def freedom(self) -> float:
        """Degrees of freedom of Student's distribution in all that is told [-]."""
        return 2 * self.shape


def before_data(mean: Floats, spread: Floats, scatter: float, weight: float) -> Belief:
    """Give what is believed before the first row.

    Parameters
    ----------
    mean, spread : array of shape (coefficients,)
        Of each coefficient, with its standard deviation.
    scatter : float
        Likely scatter of rows that are alike, in the outcome's unit.
    weight : float
        So many rows is what is said of the scatter worth [-].

    Notes
    -----
    m₀ and V₀ = diag(spread² / scatter²); the scatter's precision is gamma with shape weight/2 and
    rate weight/2 · scatter², so that its mean is one over the recalled scatter squared (Gelman et
    al., *Bayesian Data Analysis*, 3rd ed., 14.8).
    """
    cov = np.diag((spread / scatter) ** 2)
    return Belief(mean, cov, weight / 2, weight / 2 * scatter**2, 0)


def after_data(prior: Belief, x: Floats, y: Floats) -> Belief:
    """Give what is believed after some rows.

    Parameters
    ----------
    y : array of shape (rows,)
        In the outcome's unit.

    Notes
    -----
    Normal-inverse-gamma conjugate regression (Gelman et al., *Bayesian Data Analysis*, 3rd ed.,
    14.2 and 14.8): with prior N(m₀, σ² V₀) and σ² ~ IG(a₀, b₀), V = (V₀⁻¹ + XᵀX)⁻¹,
    m = V (V₀⁻¹ m₀ + Xᵀy), a = a₀ + n/2, b = b₀ + (yᵀy + m₀ᵀV₀⁻¹m₀ − mᵀV⁻¹m)/2.
    """
    if not len(y):
        return prior
    weight = np.linalg.inv(prior.cov)
    precision = weight + x.T @ x
    cov = np.asarray(np.linalg.inv(precision), dtype=np.float64)
    mean = cov @ (weight @ prior.mean + x.T @ y)
    rest = y @ y + prior.mean @ weight @ prior.mean - mean @ precision @ mean
    rate = prior.rate + max(0.0, float(rest)) / 2
    return Belief(mean, cov, prior.shape + len(y) / 2, rate, prior.n + len(y))


def spread_of(belief: Belief, x: Floats) -> Floats:
    """Give xᵀVx of each row: variance of its mean over the scatter's variance [-].

    Returns
    -------
    array of shape (rows,)
        [-].
    """
    return np.asarray(np.einsum("ij,jk,ik->i", x, belief.cov, x), dtype=np.float64)


def half_width(belief: Belief, spread: Floats, level: float) -> Floats:
    """Give half the interval of what has so much variance.

    Parameters
    ----------
    spread : array of shape (rows,)
        Variance over the scatter's variance [-]: xᵀVx for a mean, 1 + xᵀVx for a new single row.
    level : float
        Between 0 and 1 [-].

    Returns
    -------
    array of shape (rows,)
        In the outcome's unit.

    Notes
    -----
    The marginal of a linear function of the coefficients is Student's t with 2a degrees of freedom
    and scale √(b/a · spread) (Gelman et al., *Bayesian Data Analysis*, 3rd ed., 14.2).
    """
    from scipy.special import stdtrit

    t = float(stdtrit(belief.freedom, 0.5 + level / 2))
    return np.asarray(t * belief.scatter * np.sqrt(spread), dtype=np.float64)


def standing_out(belief: Belief, x: Floats, y: Floats) -> Floats:
    """Give how far each row lies from what all others say, in units of its own scatter [-].

    Parameters
    ----------
    belief : Belief
        Learned from these rows.

    Returns
    -------
    array of shape (rows,)
        [-].

    Notes
    -----
    Leaving row i out, its residual is e/(1 − h) with h = xᵀVx, and the variance of what is then
    predicted of it is σ²/(1 − h) (Sherman and Morrison's identity): t = e / (σ √(1 − h)). σ² is
    taken without the row's own share of the squares, e²/(1 − h).
    """
    e = y - x @ belief.mean
    left = np.clip(1 - spread_of(belief, x), 1e-9, 1.0)
    own = e**2 / left
    rate = np.maximum(belief.rate - own / 2, 1e-12 * belief.rate)
    sigma = np.sqrt(rate / max(belief.shape - 0.5, 1e-9))
    return np.asarray(e / (sigma * np.sqrt(left)), dtype=np.float64)
