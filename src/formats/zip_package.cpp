#include "formats/zip_package.h"
#include <algorithm>
#include <memory>
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

} // namespace

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
        zip_source_t* source = zip_source_buffer(archive, bytes.data(), bytes.size(), 0);
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
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* source = zip_source_buffer_create(bytes.data(), bytes.size(), 0, &error);
    zip_t* archive = source ? zip_open_from_source(source, ZIP_RDONLY, &error) : nullptr;
    if (!archive) {
        if (source) zip_source_free(source);
        return tl::unexpected(not_packed());
    }
    ZipParts parts;
    bool whole = true;
    for (zip_int64_t i = 0, n = zip_get_num_entries(archive, 0); i < n && whole; ++i) {
        zip_stat_t stat;
        zip_file_t* file = zip_stat_index(archive, zip_uint64_t(i), 0, &stat) == 0
                               ? zip_fopen_index(archive, zip_uint64_t(i), 0)
                               : nullptr;
        whole = file != nullptr;
        if (!whole) break;
        parts.emplace_back(stat.name, std::string(size_t(stat.size), '\0'));
        whole = zip_fread(file, parts.back().second.data(), stat.size) == zip_int64_t(stat.size);
        zip_fclose(file);
    }
    zip_discard(archive);
    if (!whole) return tl::unexpected(not_packed());
    return parts;
}

} // namespace lp
