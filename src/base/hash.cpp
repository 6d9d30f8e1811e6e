#include "base/hash.h"
#include <xxhash.h>

namespace lp {

uint64_t hash_bytes(const void* data, size_t size, uint64_t seed) {
    return XXH3_64bits_withSeed(data, size, seed);
}

} // namespace lp
