#include "app/units.h"
#include "app/settings.h"
#include "base/inches.h"

namespace lp {

bool inches_are_shown() {
    return settings().unit == Settings::Unit::Inch;
}

QString as_shown(const std::string& told) {
    return QString::fromStdString(inches_are_shown() ? told_in_inches(told) : told);
}

QString as_shown(const QString& told) {
    return inches_are_shown() ? as_shown(told.toStdString()) : told;
}

QString as_typed(const QString& typed, QuantityKind kind, const ParameterValues& values) {
    return inches_are_shown() ? QString::fromStdString(typed_in_inches(typed.toStdString(), kind, values)) : typed;
}

QString to_edit(const QString& source, QuantityKind kind) {
    if (!inches_are_shown() || kind != QuantityKind::Length) return source;
    return QString::fromStdString(edited_in_inches(source.toStdString()));
}

QString bare_length(double mm, int decimals) {
    QString text = as_shown(format_number(mm, decimals) + " mm");
    return text.left(text.lastIndexOf(' '));
}

QString two_places(double value) {
    return QString::fromStdString(format_fixed(value, 2));
}

double shown_unit_mm() {
    return inches_are_shown() ? inch_mm : 1;
}

double length_step_mm() {
    return inches_are_shown() ? inch_mm / 20 : 1;
}

} // namespace lp
