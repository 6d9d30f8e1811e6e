// Collapses of edges, kept so that they can be taken back where they did harm.
#pragma once
#include "shape/tri_mesh.h"

namespace lp::halo {

/// What each collapse changed, in the order of the collapses. Facets keep their numbers while the log is in use.
class CollapseLog {
  public:
    void begin_collapse() { first_.push_back(uint32_t(changes_.size())); }
    /// To be told of every facet that the collapse changes or removes, as it was before.
    void changes(uint32_t facet, const Triangle& before) { changes_.push_back({facet, before}); }
    /// Adds the collapses of another log behind its own. Neither touched a facet of the other's meanwhile.
    void append(const CollapseLog& other);
    size_t collapses() const { return first_.size(); }

    /// Takes back the last `most` collapses that touched each of the facets, and every later one that rests on them;
    /// facets far from those stay as they are. Returns how many were taken back.
    size_t take_back(const std::vector<uint32_t>& facets, size_t most, std::vector<Triangle>& triangles,
                     std::vector<char>& facet_gone);

  private:
    struct Change {
        uint32_t facet;
        Triangle before;
    };
    uint32_t end_of(uint32_t collapse) const {
        return collapse + 1 < first_.size() ? first_[collapse + 1] : uint32_t(changes_.size());
    }
    void index(size_t facets);

    std::vector<uint32_t> first_; ///< of each collapse, in changes_
    std::vector<Change> changes_;
    std::vector<std::vector<uint32_t>> touched_by_; ///< of each facet: the collapses that touched it, in order
    std::vector<char> back_;
};

} // namespace lp::halo
