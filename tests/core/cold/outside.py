"""CoolProp, an independent implementation of Choi and Okos's components and of water (IAPWS-95).

It takes seconds to load: only when a test asks it.
"""


def properties(what: str, fluid: str, temp_c: float) -> float:
    """Give ``D`` [kg/m³], ``C`` [J/kg K] or ``L`` [W/m K] of a fluid at one atmosphere."""
    from CoolProp.CoolProp import PropsSI

    return float(PropsSI(what, "T", temp_c + 273.15, "P", 101325, fluid))
