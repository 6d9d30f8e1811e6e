#include "mesh/collapse_log.h"
#include <algorithm>
#include <unordered_set>

namespace lp::halo {

void CollapseLog::append(const CollapseLog& other) {
    const auto shift = uint32_t(changes_.size());
    for (uint32_t first : other.first_) first_.push_back(first + shift);
    changes_.insert(changes_.end(), other.changes_.begin(), other.changes_.end());
}

void CollapseLog::index(size_t facets) {
    if (!touched_by_.empty()) return;
    touched_by_.resize(facets);
    back_.assign(first_.size(), 0);
    for (uint32_t c = 0; c < first_.size(); ++c)
        for (uint32_t i = first_[c]; i < end_of(c); ++i) touched_by_[changes_[i].facet].push_back(c);
}

size_t CollapseLog::take_back(const std::vector<uint32_t>& facets, size_t most, std::vector<Triangle>& triangles,
                              std::vector<char>& facet_gone) {
    index(triangles.size());
    std::unordered_set<uint32_t> chosen;
    std::vector<uint32_t> open;
    auto choose = [&](uint32_t collapse) {
        if (!back_[collapse] && chosen.insert(collapse).second) open.push_back(collapse);
    };
    for (uint32_t f : facets) {
        const auto& by = touched_by_[f];
        size_t taken = 0;
        for (auto c = by.rbegin(); c != by.rend() && taken < most; ++c)
            if (!back_[*c]) choose(*c), ++taken;
    }
    while (!open.empty()) { // whatever touched the same facets later rests on what they are now
        const uint32_t collapse = open.back();
        open.pop_back();
        for (uint32_t i = first_[collapse]; i < end_of(collapse); ++i) {
            const auto& by = touched_by_[changes_[i].facet];
            for (auto c = std::upper_bound(by.begin(), by.end(), collapse); c != by.end(); ++c) choose(*c);
        }
    }
    std::vector<uint32_t> last_first(chosen.begin(), chosen.end());
    std::sort(last_first.rbegin(), last_first.rend());
    for (uint32_t collapse : last_first) {
        for (uint32_t i = first_[collapse]; i < end_of(collapse); ++i) {
            triangles[changes_[i].facet] = changes_[i].before;
            facet_gone[changes_[i].facet] = 0;
        }
        back_[collapse] = 1;
    }
    return last_first.size();
}

} // namespace lp::halo
