#include "formats/zip_package.h"
#include "formats/deflate_blocks.h"
#include <algorithm>
#include <cstring>
#include <zip.h>

namespace lp {
namespace {

Problem not_packed() {
    return {ProblemCode::File, "The file could not be packed.", "Is there enough memory?"};
}

/// All that a source holds.
std::optional<std::string> bytes_of(zip_source_t* source) {
    if (zip_source_open(source) != 0) return std::nullopt;
    zip_source_seek(source, 0, SEEK_END);
    const zip_int64_t size = zip_source_tell(source);
    zip_source_seek(source, 0, SEEK_SET);
    std::string bytes(size_t(std::max<zip_int64_t>(size, 0)), '\0');
    const bool whole = zip_source_read(source, bytes.data(), bytes.size()) == size;
    zip_source_close(source);
    return whole ? std::optional(std::move(bytes)) : std::nullopt;
}

/// A part that is packed already: what libzip asks for of it.
struct PackedPart {
    Deflated packed;
    size_t unpacked_size = 0, at = 0;
};

zip_int64_t packed_part(void* user, void* data, zip_uint64_t size, zip_source_cmd_t asked) {
    auto& part = *static_cast<PackedPart*>(user);
    switch (asked) {
    case ZIP_SOURCE_SUPPORTS:
        return zip_source_make_command_bitmap(ZIP_SOURCE_OPEN, ZIP_SOURCE_READ, ZIP_SOURCE_CLOSE, ZIP_SOURCE_STAT,
                                              ZIP_SOURCE_ERROR, ZIP_SOURCE_FREE, -1);
    case ZIP_SOURCE_OPEN:
        part.at = 0;
        return 0;
    case ZIP_SOURCE_READ: {
        const size_t read = std::min(size_t(size), part.packed.bytes.size() - part.at);
        std::memcpy(data, part.packed.bytes.data() + part.at, read);
        part.at += read;
        return zip_int64_t(read);
    }
    case ZIP_SOURCE_STAT: {
        auto& stat = *static_cast<zip_stat_t*>(data);
        zip_stat_init(&stat);
        stat.valid = ZIP_STAT_SIZE | ZIP_STAT_COMP_SIZE | ZIP_STAT_COMP_METHOD | ZIP_STAT_CRC;
        stat.size = part.unpacked_size;
        stat.comp_size = part.packed.bytes.size();
        stat.comp_method = ZIP_CM_DEFLATE;
        stat.crc = part.packed.crc32;
        return sizeof stat;
    }
    case ZIP_SOURCE_FREE:
        delete &part;
        return 0;
    default:
        return 0;
    }
}

/// A part as libzip takes it; none where there is no memory for it.
zip_source_t* source_of(zip_t* archive, const std::string& bytes, bool quickly) {
    constexpr size_t large = size_t(1) << 22;
    if (!quickly || bytes.size() < large) return zip_source_buffer(archive, bytes.data(), bytes.size(), 0);
    auto packed = deflate_blocks(bytes);
    if (!packed) return nullptr;
    auto* part = new PackedPart{std::move(*packed), bytes.size()};
    zip_source_t* source = zip_source_function(archive, packed_part, part);
    if (!source) delete part;
    return source;
}

} // namespace

void ZipCloser::operator()(zip* archive) const {
    zip_discard(archive);
}

ZipArchive zip_archive(const std::string& bytes, bool strictly) {
    if (bytes.empty()) return nullptr; // the library takes it for one that is to be filled
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* source = zip_source_buffer_create(bytes.data(), bytes.size(), 0, &error);
    if (!source) return nullptr;
    ZipArchive archive(zip_open_from_source(source, ZIP_RDONLY | (strictly ? ZIP_CHECKCONS : 0), &error));
    if (!archive) zip_source_free(source);
    return archive;
}

Expected<std::string> pack_zip(const ZipParts& parts, bool quickly) {
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* target = zip_source_buffer_create(nullptr, 0, 0, &error);
    if (!target) return tl::unexpected(not_packed());
    const std::unique_ptr<zip_source_t, void (*)(zip_source_t*)> kept(target, zip_source_free);
    zip_source_keep(target); // the archive lets go of it when it is closed
    zip_t* archive = zip_open_from_source(target, ZIP_TRUNCATE, &error);
    if (!archive) {
        zip_source_free(target);
        return tl::unexpected(not_packed());
    }
    for (const auto& [name, bytes] : parts) {
        zip_source_t* source = source_of(archive, bytes, quickly);
        const zip_int64_t index = source ? zip_file_add(archive, name.c_str(), source, ZIP_FL_ENC_UTF_8) : -1;
        if (index < 0) {
            if (source) zip_source_free(source);
            zip_discard(archive);
            return tl::unexpected(not_packed());
        }
        zip_file_set_mtime(archive, zip_uint64_t(index), 0x5f000000, 0);
        if (quickly) zip_set_file_compression(archive, zip_uint64_t(index), ZIP_CM_DEFLATE, 1);
    }
    if (zip_close(archive) != 0) {
        zip_discard(archive);
        return tl::unexpected(not_packed());
    }
    auto bytes = bytes_of(target);
    if (!bytes) return tl::unexpected(not_packed());
    return std::move(*bytes);
}

Expected<ZipParts> unpack_own_zip(const std::string& bytes) {
    const ZipArchive archive = zip_archive(bytes);
    if (!archive) return tl::unexpected(not_packed());
    ZipParts parts;
    bool whole = true;
    for (zip_int64_t i = 0, n = zip_get_num_entries(archive.get(), 0); i < n && whole; ++i) {
        zip_stat_t stat;
        zip_file_t* file = zip_stat_index(archive.get(), zip_uint64_t(i), 0, &stat) == 0
                               ? zip_fopen_index(archive.get(), zip_uint64_t(i), 0)
                               : nullptr;
        whole = file != nullptr;
        if (!whole) break;
        parts.emplace_back(stat.name, std::string(size_t(stat.size), '\0'));
        // One byte more: at the end the library holds what it read against the check sum.
        char more;
        whole = zip_fread(file, parts.back().second.data(), stat.size) == zip_int64_t(stat.size) &&
                zip_fread(file, &more, 1) == 0;
        zip_fclose(file);
    }
    if (!whole) return tl::unexpected(not_packed());
    return parts;
}

} // namespace lp
