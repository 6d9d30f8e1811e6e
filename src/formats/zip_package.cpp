#include "formats/zip_package.h"
#include <memory>
#include <vector>
#include <zip.h>

namespace lp {
namespace {

Problem not_written() {
    return {ProblemCode::File, "The package could not be put together.", "Try again, with more memory free."};
}

struct Discards {
    void operator()(zip_t* archive) const { zip_discard(archive); }
};
using Archive = std::unique_ptr<zip_t, Discards>;

std::optional<std::string> part_of(zip_t* archive, zip_uint64_t index, size_t size) {
    std::string text(size, '\0');
    zip_file_t* file = zip_fopen_index(archive, index, 0);
    if (!file) return std::nullopt;
    const bool whole = zip_fread(file, text.data(), size) == zip_int64_t(size);
    zip_fclose(file);
    return whole ? std::optional(std::move(text)) : std::nullopt;
}

/// All that a source holds.
std::optional<std::string> bytes_of(zip_source_t* source) {
    zip_stat_t stat;
    if (zip_source_stat(source, &stat) != 0 || !(stat.valid & ZIP_STAT_SIZE) || zip_source_open(source) != 0)
        return std::nullopt;
    std::string bytes(size_t(stat.size), '\0');
    const bool whole = zip_source_read(source, bytes.data(), stat.size) == zip_int64_t(stat.size);
    zip_source_close(source);
    return whole ? std::optional(std::move(bytes)) : std::nullopt;
}

} // namespace

Expected<std::string> change_package(const std::string& package, const std::string& ending,
                                     const std::function<bool(std::string&)>& change) {
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* source = zip_source_buffer_create(nullptr, 0, 0, &error);
    if (!source) return tl::unexpected(not_written());
    // A copy the library may write to, and that is there afterwards.
    if (zip_source_begin_write(source) != 0 ||
        zip_source_write(source, package.data(), package.size()) != zip_int64_t(package.size()) ||
        zip_source_commit_write(source) != 0) {
        zip_source_free(source);
        return tl::unexpected(not_written());
    }
    zip_source_keep(source);
    const std::unique_ptr<zip_source_t, void (*)(zip_source_t*)> kept(source, zip_source_free);
    Archive archive(zip_open_from_source(source, 0, &error));
    if (!archive) {
        zip_source_free(source);
        return tl::unexpected(not_written());
    }
    std::string text; // the archive reads it when it is closed
    bool found = false;
    for (zip_int64_t i = 0, n = zip_get_num_entries(archive.get(), 0); i < n && !found; ++i) {
        zip_stat_t stat;
        if (zip_stat_index(archive.get(), zip_uint64_t(i), 0, &stat) != 0 || !stat.name) continue;
        if (!std::string_view(stat.name).ends_with(ending)) continue;
        auto part = part_of(archive.get(), zip_uint64_t(i), size_t(stat.size));
        if (!part || !change(*part)) return tl::unexpected(not_written());
        text = std::move(*part);
        // Taken out and added anew: of a part that is replaced the library forgets how well it is to be packed.
        const std::string name = stat.name;
        zip_delete(archive.get(), zip_uint64_t(i));
        zip_source_t* changed = zip_source_buffer(archive.get(), text.data(), text.size(), 0);
        const zip_int64_t at = changed ? zip_file_add(archive.get(), name.c_str(), changed, ZIP_FL_ENC_UTF_8) : -1;
        if (at < 0) {
            zip_source_free(changed);
            return tl::unexpected(not_written());
        }
        zip_set_file_compression(archive.get(), zip_uint64_t(at), ZIP_CM_DEFLATE, 1);
        found = true;
    }
    if (!found || zip_close(archive.get()) != 0) return tl::unexpected(not_written());
    static_cast<void>(archive.release()); // closed, and gone with it
    auto bytes = bytes_of(source);
    if (!bytes) return tl::unexpected(not_written());
    return std::move(*bytes);
}

} // namespace lp
