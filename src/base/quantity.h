// Kinds of numbers, their units, and how they are written for people.
#pragma once
#include <optional>
#include <string>
#include <string_view>

namespace lp {

/// What a number measures. Inside the program lengths are mm and angles degrees.
enum class QuantityKind { Length, Angle, Count, Number };

struct Unit {
    const char* name; ///< as typed after a number
    QuantityKind kind;
    double factor; ///< to mm or degrees
};

/// mm, cm, m, in (25.4 mm exactly, ISO 31-1), deg. Nothing else.
const Unit* find_unit(std::string_view name);

/// "length", "angle", "count", "number": the words of the file format.
const char* kind_name(QuantityKind kind);
std::optional<QuantityKind> kind_from_name(std::string_view name);

/// "6 mm", "0.25 mm", "45°", "3": at most `decimals` places, trailing noughts dropped.
std::string format_quantity(double value, QuantityKind kind, int decimals = 3);
/// A plain number with at most `decimals` places, trailing noughts dropped, never "-0".
std::string format_number(double value, int decimals = 3);
/// Fixed places: "0.40".
std::string format_fixed(double value, int decimals);
/// "1 h 52 min", "4 min", "12 s".
std::string format_duration(double seconds);

} // namespace lp
