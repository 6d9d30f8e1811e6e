#include "base/quantity.h"
#include <array>
#include <cmath>
#include <cstdio>

namespace lp {

const Unit* find_unit(std::string_view name) {
    static constexpr std::array<Unit, 5> units{{{"mm", QuantityKind::Length, 1.0},
                                                {"cm", QuantityKind::Length, 10.0},
                                                {"m", QuantityKind::Length, 1000.0},
                                                {"in", QuantityKind::Length, 25.4},
                                                {"deg", QuantityKind::Angle, 1.0}}};
    for (const Unit& unit : units)
        if (name == unit.name) return &unit;
    return nullptr;
}

const char* kind_name(QuantityKind kind) {
    switch (kind) {
    case QuantityKind::Length:
        return "length";
    case QuantityKind::Angle:
        return "angle";
    case QuantityKind::Count:
        return "count";
    case QuantityKind::Number:
        return "number";
    }
    return "number";
}

std::optional<QuantityKind> kind_from_name(std::string_view name) {
    for (auto kind : {QuantityKind::Length, QuantityKind::Angle, QuantityKind::Count, QuantityKind::Number})
        if (name == kind_name(kind)) return kind;
    return std::nullopt;
}

std::string format_fixed(double value, int decimals) {
    char text[64];
    std::snprintf(text, sizeof text, "%.*f", decimals, value);
    std::string result = text;
    // A rounded-away negative number would read "-0.00".
    if (result[0] == '-' && result.find_first_not_of("-0.") == std::string::npos) result.erase(0, 1);
    return result;
}

std::string format_number(double value, int decimals) {
    std::string text = format_fixed(value, decimals);
    if (text.find('.') != std::string::npos) {
        text.erase(text.find_last_not_of('0') + 1);
        if (text.back() == '.') text.pop_back();
    }
    return text;
}

std::string format_quantity(double value, QuantityKind kind, int decimals) {
    std::string text = format_number(value, decimals);
    if (kind == QuantityKind::Length) text += " mm";
    if (kind == QuantityKind::Angle) text += "°";
    return text;
}

std::string format_duration(double seconds) {
    long minutes = std::lround(seconds / 60);
    if (seconds < 60) return std::to_string(std::lround(seconds)) + " s";
    if (minutes < 60) return std::to_string(minutes) + " min";
    return std::to_string(minutes / 60) + " h " + std::to_string(minutes % 60) + " min";
}

} // namespace lp
