// What went wrong, in words for the person at the bench, and the result type that carries it.
#pragma once
#include "base/geometry.h"
#include <optional>
#include <string>
#include <tl/expected.hpp>

namespace lp {

enum class ProblemCode {
    Wording,     ///< an expression or a name cannot be read
    Range,       ///< a number outside its limits
    Missing,     ///< something referred to is not there
    Geometry,    ///< the geometry refuses
    NothingLeft, ///< the geometry took all of it away
    Open,        ///< a mesh that does not bound a body: it must be mended first
    File,        ///< a file cannot be read, or not be trusted
    Cancelled,   ///< stopped on request
    Crashed,     ///< the geometry kernel died or did not come back: the same may work when tried again
};

/// What would cure a step: its field set ("radius" to "3.1 mm"), or a step of another kind put after or before it.
struct FieldCure {
    std::string field, text;
    std::string words = {};    ///< on the button that does it: "Make them all"; made from field and text when empty
    std::string add_step = {}; ///< id of a kind: then the field is that step's
    bool before = false;       ///< the added step goes before
    bool operator==(const FieldCure&) const = default;
};

/// One failure. `sentence` says what is wrong and where, `advice` what to do next; both end without a line break.
struct Problem {
    ProblemCode code = ProblemCode::Geometry;
    std::string sentence;
    std::string advice = {};
    std::optional<Vec3> point = {};  ///< where, in mm, when there is a place
    std::optional<size_t> step = {}; ///< index of the step it belongs to, from 0
    std::optional<FieldCure> cure = {};

    /// Sentence and advice on one line.
    std::string text() const { return advice.empty() ? sentence : sentence + " " + advice; }
};

template <class T> using Expected = tl::expected<T, Problem>;

inline tl::unexpected<Problem> problem(ProblemCode code, std::string sentence, std::string advice = {}) {
    return tl::make_unexpected(Problem{code, std::move(sentence), std::move(advice)});
}
/// Passes on what went wrong below, as the caller's own answer.
template <class T> tl::unexpected<Problem> pass_on(const Expected<T>& failed) {
    return tl::make_unexpected(failed.error());
}
inline tl::unexpected<Problem> pass_on(Problem failed) {
    return tl::make_unexpected(std::move(failed));
}
inline tl::unexpected<Problem> cancelled() {
    return problem(ProblemCode::Cancelled, "Stopped on request.");
}

} // namespace lp
