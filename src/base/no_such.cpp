#include "base/no_such.h"
#include "base/text.h"

namespace lp {

std::string those_there(const std::vector<std::string>& names) {
    constexpr size_t longest = 300; // a refusal is one line under 500 characters
    if (names.empty()) return "There is none.";
    const std::string all = joined(names);
    return all.size() > longest ? "Choose one that is there." : "There are: " + all + ".";
}

Problem no_such(const std::string& what, const std::string& name, const std::vector<std::string>& there) {
    return {ProblemCode::Missing, "There is no " + what + " called " + quoted_start(name) + ".", those_there(there)};
}

} // namespace lp
