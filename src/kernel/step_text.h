// The text of a STEP file (ISO 10303-21): where its instances stand and what they refer to.
#pragma once
#include <cstdint>
#include <string_view>
#include <vector>

namespace lp {

/// "#12 = KEYWORD(...#3...);" and where in the text it stands.
struct StepInstance {
    uint64_t id = 0;
    size_t from = 0, head = 0, body = 0, to = 0; ///< its "#", behind its number, behind its "=", and its ";"
    size_t refs = 0, refs_end = 0;               ///< of StepText::refs
    std::string_view keyword;                    ///< empty for one of several types at once
};

struct StepRef {
    uint64_t id = 0;
    size_t from = 0, to = 0; ///< its "#" and behind its digits
    uint32_t at = 0;         ///< the instance, as they stand in the file
};

struct StepText {
    std::string_view text;
    std::vector<StepInstance> instances;
    std::vector<StepRef> refs;
    std::vector<std::string_view> header; ///< its entities, without ";"

    std::string_view body(const StepInstance& one) const { return text.substr(one.body, one.to - one.body); }
};

/// Whether the text can be told apart: one header and one data section, no number given twice, none missing. `text`
/// must stay where it is. What a scope or a stray character is in, is left to whoever reads it otherwise.
bool scan_step_text(std::string_view text, StepText& found);

} // namespace lp
