// Sentences and typed numbers between millimetres and inches (25.4 mm exactly, ISO 31-1). Files, formulas and the
// program's insides stay in millimetres; this is for who reads and types inches.
#pragma once
#include "base/expression.h"

namespace lp {

inline constexpr double inch_mm = 25.4;

/// "0.2362 in": three places from an inch on, four below, trailing noughts dropped; one that is not 0 never reads 0.
std::string format_inches(double mm);

/// The sentence with every length, area and volume in mm or cm told in inches: "18 x 30 x 22 mm", "5, 0, 2 mm", "0.2 to
/// 5 mm", "12 mm²", "3 mm³". Speeds (mm/s) and the name of the unit without a number stay.
std::string told_in_inches(const std::string& sentence);

/// What is meant where inches are typed: a number without a unit is one of inches, also in sums ("wall + 0.5"); factors
/// ("2 * wall") and what has a unit stay. Other kinds than lengths, and what cannot be read, stay as they are.
std::string typed_in_inches(const std::string& text, QuantityKind kind, const ParameterValues& values);

/// A plain length as it is edited in inches: "6 mm" is "0.23622047 in", to nine decimals, so that nothing is lost;
/// formulas stay.
std::string edited_in_inches(const std::string& text);

} // namespace lp
