#include "kernel/step_share.h"
#include <string>
#include <unordered_map>

namespace lp {
namespace {

using Number = uint32_t; ///< of an instance, counted as they stand in the file

bool is_solid(const StepInstance& one) {
    return one.keyword == "MANIFOLD_SOLID_BREP" || one.keyword == "BREP_WITH_VOIDS" || one.keyword == "FACETED_BREP";
}

/// Which of several instances that are word for word the same stands for all of them. Those of a kind that is a value
/// and no thing: what they are said of is told by who refers to them.
std::vector<Number> one_for_all(const StepText& step, const std::vector<char>& unused) {
    std::vector<Number> stands_for(step.instances.size());
    for (size_t i = 0; i < stands_for.size(); ++i) stands_for[i] = Number(i);
    std::unordered_map<std::string, Number> first;
    std::string words;
    // Each kind refers to those before it.
    for (const auto& kinds : {std::pair("CARTESIAN_POINT", "DIRECTION"), std::pair("VECTOR", "AXIS2_PLACEMENT_3D")})
        for (size_t i = 0; i < step.instances.size(); ++i) {
            const StepInstance& one = step.instances[i];
            if (unused[i] || (one.keyword != kinds.first && one.keyword != kinds.second)) continue;
            words.clear();
            size_t from = one.body;
            for (size_t r = one.refs; r < one.refs_end; ++r) {
                const StepRef& ref = step.refs[r];
                words.append(step.text, from, ref.from - from).append("#") += std::to_string(stands_for[ref.at]);
                from = ref.to;
            }
            words.append(step.text, from, one.to - from);
            stands_for[i] = first.emplace(words, Number(i)).first->second;
        }
    return stands_for;
}

/// Everything that is referred to from what is on the stack, on and on, but not through `closed` ones: how many are
/// new.
size_t reach(const StepText& step, std::vector<Number>& stack, const std::vector<char>& closed,
             std::vector<char>& reached) {
    size_t fresh = 0;
    while (!stack.empty()) {
        const Number at = stack.back();
        stack.pop_back();
        if (closed[at]) continue;
        const StepInstance& one = step.instances[at];
        for (size_t r = one.refs; r < one.refs_end; ++r) {
            const Number to = step.refs[r].at;
            if (reached[to]) continue;
            reached[to] = 1;
            stack.push_back(to);
            ++fresh;
        }
    }
    return fresh;
}

/// The solids that belong to other shares. A share's are neighbours in the file, with as many instances as others have.
std::vector<char> foreign_solids(const StepText& step, size_t share, size_t of) {
    const std::vector<char> none(step.instances.size(), 0);
    std::vector<char> reached = none, foreign = none;
    std::vector<std::pair<size_t, size_t>> solids; // which, and how many instances there are up to its middle
    size_t sum = 0;
    std::vector<Number> stack;
    for (size_t i = 0; i < step.instances.size(); ++i) {
        if (!is_solid(step.instances[i])) continue;
        stack.assign(1, Number(i));
        const size_t its = reach(step, stack, none, reached) + 1;
        solids.emplace_back(i, sum + its / 2);
        sum += its;
    }
    for (const auto& [i, middle] : solids) foreign[i] = middle * of / sum != share;
    return foreign;
}

/// What only foreign solids refer to: what they reach, and nothing else does.
std::vector<char> without_use(const StepText& step, const std::vector<char>& foreign) {
    std::vector<char> theirs(step.instances.size(), 0), ours = theirs;
    std::vector<Number> stack;
    for (size_t i = 0; i < foreign.size(); ++i)
        if (foreign[i]) stack.push_back(Number(i));
    reach(step, stack, std::vector<char>(foreign.size(), 0), theirs);
    for (size_t i = 0; i < foreign.size(); ++i)
        if (!theirs[i] && !foreign[i]) stack.push_back(Number(i));
    reach(step, stack, foreign, ours);
    for (size_t i = 0; i < foreign.size(); ++i) theirs[i] = theirs[i] && !ours[i] && !foreign[i];
    return theirs;
}

} // namespace

StepShare step_share(const StepText& step, size_t share, size_t of) {
    StepShare its;
    its.foreign = foreign_solids(step, share, of);
    its.unused = without_use(step, its.foreign);
    its.stands_for = one_for_all(step, its.unused);
    return its;
}

} // namespace lp
