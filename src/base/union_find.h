// Groups of things that are joined one pair at a time: shells, corners, patches. Nearly constant time a call.
#pragma once
#include <cstdint>
#include <numeric>
#include <utility>
#include <vector>

namespace lp {

class UnionFind {
  public:
    explicit UnionFind(size_t n) : parent_(n) { std::iota(parent_.begin(), parent_.end(), 0u); }
    /// The group of i, named by its smallest member.
    uint32_t find(uint32_t i) {
        while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
        return i;
    }
    /// False when both were in one group already.
    bool join(uint32_t a, uint32_t b) {
        a = find(a), b = find(b);
        if (a == b) return false;
        if (a > b) std::swap(a, b);
        parent_[b] = a;
        return true;
    }

  private:
    std::vector<uint32_t> parent_;
};

} // namespace lp
