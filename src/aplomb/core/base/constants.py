"""Exact constants the core rests on: name, value, unit, source.

The pound and the inch are exact by the international yard and pound agreement of 1959.
US customary volumes follow from the US gallon of 231 cubic inches (NIST Handbook 44,
appendix C); the imperial pint from the imperial gallon of 4.546 09 L (UK Weights and
Measures Act 1985).
"""

GRAMS_PER_POUND = 453.59237
"""International avoirdupois pound [g], exact."""

GRAMS_PER_OUNCE = GRAMS_PER_POUND / 16
"""International avoirdupois ounce [g], exact."""

MM_PER_INCH = 25.4
"""International inch [mm], exact."""

ML_PER_US_GALLON = 231 * (MM_PER_INCH / 10) ** 3
"""US liquid gallon [mL], exact: 3785.411784."""

ML_PER_US_QUART = ML_PER_US_GALLON / 4
ML_PER_US_PINT = ML_PER_US_GALLON / 8
ML_PER_US_CUP = ML_PER_US_GALLON / 16
ML_PER_US_FLUID_OUNCE = ML_PER_US_GALLON / 128
ML_PER_US_TABLESPOON = ML_PER_US_GALLON / 256
ML_PER_US_TEASPOON = ML_PER_US_GALLON / 768

ML_PER_IMPERIAL_GALLON = 4546.09
"""Imperial gallon [mL], exact."""

ML_PER_METRIC_CUP, ML_PER_METRIC_TABLESPOON, ML_PER_METRIC_TEASPOON = 250.0, 15.0, 5.0
"""Metric cup and spoons [mL], common practice; a tablespoon of 20 mL is used in Australia."""

GRAMS_PER_STICK = GRAMS_PER_POUND / 4
"""A stick of butter or margarine [g]: a quarter of a pound, common practice in the US."""

ICE_MELT_KJ_KG = 333.6
"""Heat that ice takes to melt at 0 °C [kJ/kg], handbook value."""

ICE_KJ_KG_K = 2.06
"""Specific heat capacity of ice near -5 °C [kJ/(kg·K)], handbook value."""

FLOUR_BASIS = 0.14
"""Moisture that flours are compared at [g/g], the convention of cereal chemistry (AACC)."""

WORKING_TEMP_C = 12.0
"""Temperature at which paste is rolled and its density is taken [°C], common practice."""
