// Arithmetic with units and named numbers: "peg_d + 0.2", "1/4 in", "2 * wall", "atan(3/4)".
#pragma once
#include "base/problem.h"
#include "base/quantity.h"
#include "base/readings.h"
#include <map>
#include <string>
#include <vector>

namespace lp {

/// A named number of the project. `expression` may use other parameters.
struct Parameter {
    std::string name;       ///< letters, digits and _, not starting with a digit
    std::string expression; ///< as typed
    QuantityKind kind = QuantityKind::Length;
    std::string note;
    Readings readings = {}; ///< where it was measured; what follows from them is its expression
    bool operator==(const Parameter&) const = default;
};

struct ParameterValue {
    double value = 0; ///< mm, degrees or a plain number
    QuantityKind kind = QuantityKind::Length;
};
using ParameterValues = std::map<std::string, ParameterValue>;

/// Value of `text` as a quantity of `kind`, in mm or degrees. A bare number takes the kind's own unit. Trigonometric
/// functions take and give degrees. Refused: unknown names (named), a unit of another kind, a result that is no
/// number, text over 500 characters. A sign of a diameter before a length ("⌀6") is left to who asks: see
/// is_told_as_diameter().
Expected<double> evaluate_expression(const std::string& text, QuantityKind kind, const ParameterValues& values);

/// Whether the number begins with the sign of a diameter: what wants a radius takes half of it.
bool is_told_as_diameter(const std::string& text);

/// The parameters `text` uses, in the order of the alphabet; empty when it cannot be read.
std::vector<std::string> names_in_expression(const std::string& text);

/// `text` with every use of parameter `from` replaced by `to`.
std::string rename_in_expression(const std::string& text, const std::string& from, const std::string& to);

/// What a number typed without saying so is: an angle where all its units are, else a length.
QuantityKind kind_of_expression(const std::string& text);
/// True for a plain number, with or without a unit: no names, no operators except a leading sign.
bool is_plain_number(const std::string& text);

/// Why `name` cannot name a parameter; no value when it can.
std::optional<Problem> check_parameter_name(const std::string& name);

/// Values of all parameters. A cycle is refused with the names in the loop; otherwise the first failing parameter is
/// named. Linear in the number of uses.
Expected<ParameterValues> evaluate_parameters(const std::vector<Parameter>& parameters);

} // namespace lp
