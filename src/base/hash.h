// 64-bit fingerprints for caches and tags (xxHash), stable between runs and machines of one byte order.
#pragma once
#include "base/ids.h"
#include <cstdint>
#include <string_view>
#include <type_traits>

namespace lp {

uint64_t hash_bytes(const void* data, size_t size, uint64_t seed = 0);

/// Feeds values one after the other; order matters.
class Hasher {
  public:
    explicit Hasher(uint64_t seed = 0) : value_(seed) {}
    Hasher& add(std::string_view text) {
        value_ = hash_bytes(text.data(), text.size(), value_ ^ text.size());
        return *this;
    }
    template <class T>
    requires std::is_arithmetic_v<T> || std::is_enum_v<T> Hasher& add(T number) {
        value_ = hash_bytes(&number, sizeof number, value_);
        return *this;
    }
    template <class Of> Hasher& add(Id<Of> id) { return add(id.value); }
    uint64_t value() const { return value_; }

  private:
    uint64_t value_;
};

} // namespace lp
