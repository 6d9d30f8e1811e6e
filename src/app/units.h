// Lengths as they are shown and typed: in millimetres, or in inches where the settings say so.
#pragma once
#include "base/expression.h"
#include <QString>

namespace lp {

bool inches_are_shown();
/// A sentence with lengths in mm, in the unit that is shown.
QString as_shown(const QString& told_in_mm);
QString as_shown(const std::string& told_in_mm);
/// What was typed, with its unit where a bare number means the one that is shown.
QString as_typed(const QString& typed, QuantityKind kind, const ParameterValues& values);
/// A field's text as it is opened for typing.
QString to_edit(const QString& source, QuantityKind kind);
/// A length without its unit: "12", "0.4724".
QString bare_length(double mm, int decimals = 3);
/// "0.30": a figure that stands beside others.
QString two_places(double value);
/// 1, or 25.4: mm in the unit that is shown.
double shown_unit_mm();
/// What arrow keys add to a length: 1 mm, or a twentieth of an inch.
double length_step_mm();

} // namespace lp
