// What tools and constraints of a drawing are called: in offers, hints and typed lines.
#pragma once
#include "app/outline/outline_editor.h"
#include <span>

namespace lp {

struct NamedTool {
    DrawTool tool;
    const char *words, *hint;
};
struct NamedConstraint {
    ConstraintKind kind;
    const char* words;
};

/// In the order they are offered.
std::span<const NamedTool> named_tools();
std::span<const NamedConstraint> named_constraints();
/// Nothing for the tool that only selects.
const NamedTool* tool_named(DrawTool tool);

/// Whether a typed line begins with these words, in capitals or not.
bool line_begins(const QString& line, const char* words);
/// The longest of the names a line begins with; nothing when it begins with none.
template <class Named> const Named* longest_named(std::span<const Named> all, const QString& line) {
    const Named* best = nullptr;
    for (const Named& named : all)
        if (line_begins(line, named.words) && (!best || qstrlen(named.words) > qstrlen(best->words))) best = &named;
    return best;
}

} // namespace lp
