// Deflate (RFC 1951) of large parts of a package, block by block on all cores.
#pragma once
#include <cstdint>
#include <optional>
#include <string>

namespace lp {

struct Deflated {
    std::string bytes;  ///< without a header of its own, as a zip file wants it
    uint32_t crc32 = 0; ///< of what was packed (ISO 3309, as zip files carry it)
};

/// Packed fast rather than small; the same text gives the same bytes on any number of cores. Nothing where memory runs
/// out.
std::optional<Deflated> deflate_blocks(const std::string& text);

} // namespace lp
