// What a new part or stand-in is called until somebody types another name.
#pragma once
#include <QRegularExpression>
#include <QString>

namespace lp {

inline constexpr const char *given_part_name = "Part", *given_stand_in_name = "Bought thing";

/// One of these, also with the number that tells it from others.
inline bool is_given_name(const std::string& name) {
    static const QRegularExpression given(QString("^(%1|%2)( \\d+)?$").arg(given_part_name, given_stand_in_name));
    return given.match(QString::fromStdString(name)).hasMatch();
}

} // namespace lp
