// Ids of what a project holds, each a type of its own: a step's id cannot be taken for a part's.
#pragma once
#include <compare>
#include <cstdint>
#include <functional>
#include <string>

namespace lp {

/// A number that names one `Of` within a project and is never used again. 0, the default, names none.
template <class Of> struct Id {
    uint64_t value = 0;

    constexpr Id() = default;
    constexpr explicit Id(uint64_t number) : value(number) {}
    explicit operator bool() const { return value != 0; }
    auto operator<=>(const Id&) const = default;
};

using PartId = Id<struct PartOfProject>;
using StepId = Id<struct StepOfPart>;
using MeasureId = Id<struct MeasureOfProject>;
using MovementId = Id<struct MovementOfProject>;

/// The number alone, as fields and file formats write it.
template <class Of> std::string to_text(Id<Of> id) {
    return std::to_string(id.value);
}

} // namespace lp

template <class Of> struct std::hash<lp::Id<Of>> {
    size_t operator()(lp::Id<Of> id) const { return std::hash<uint64_t>()(id.value); }
};
