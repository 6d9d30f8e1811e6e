#include "formats/deflate_blocks.h"
#include <algorithm>
#include <tbb/parallel_for.h>
#include <vector>
#include <zlib.h>

namespace lp {
namespace {

constexpr size_t block_bytes = size_t(1) << 20;

struct Block {
    const char* from = nullptr;
    size_t size = 0;
    bool last = false;
    std::string packed = {};
    uLong crc = 0;
    bool done = false;
};

/// Every block starts afresh. All but the last end with an empty stored block, at a whole byte (zlib's Z_SYNC_FLUSH):
/// they can stand one behind the other.
void pack(Block& block) {
    auto* from = reinterpret_cast<const Bytef*>(block.from);
    block.crc = crc32_z(0, from, block.size);
    z_stream stream{};
    constexpr int no_header = -15, memory = 9;
    if (deflateInit2(&stream, Z_BEST_SPEED, Z_DEFLATED, no_header, memory, Z_DEFAULT_STRATEGY) != Z_OK) return;
    block.packed.resize(deflateBound(&stream, uLong(block.size)) + 16);
    stream.next_in = const_cast<Bytef*>(from);
    stream.avail_in = uInt(block.size);
    stream.next_out = reinterpret_cast<Bytef*>(block.packed.data());
    stream.avail_out = uInt(block.packed.size());
    const int said = deflate(&stream, block.last ? Z_FINISH : Z_SYNC_FLUSH);
    block.done = stream.avail_in == 0 && said == (block.last ? Z_STREAM_END : Z_OK);
    block.packed.resize(stream.total_out);
    deflateEnd(&stream);
}

} // namespace

std::optional<Deflated> deflate_blocks(const std::string& text) {
    std::vector<Block> blocks(std::max<size_t>(1, (text.size() + block_bytes - 1) / block_bytes));
    for (size_t i = 0; i < blocks.size(); ++i)
        blocks[i] = {.from = text.data() + i * block_bytes,
                     .size = std::min(block_bytes, text.size() - i * block_bytes),
                     .last = i + 1 == blocks.size()};
    tbb::parallel_for(size_t(0), blocks.size(), [&](size_t i) { pack(blocks[i]); });
    Deflated all;
    size_t size = 0;
    for (const Block& block : blocks) size += block.packed.size();
    all.bytes.reserve(size);
    uLong crc = 0;
    for (const Block& block : blocks) {
        if (!block.done) return std::nullopt;
        all.bytes += block.packed;
        crc = crc32_combine(crc, block.crc, z_off_t(block.size));
    }
    all.crc32 = uint32_t(crc);
    return all;
}

} // namespace lp
