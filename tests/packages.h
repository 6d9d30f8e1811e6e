// Files inside ZIP packages, for tests of what was written.
#pragma once
#include <filesystem>
#include <string>
#include <zip.h>

namespace lp::test {

/// Empty where there is no such file.
inline std::string entry(const std::filesystem::path& package, const char* name) {
    int code = 0;
    zip_t* archive = zip_open(package.c_str(), ZIP_RDONLY, &code);
    if (!archive) return {};
    zip_file_t* file = zip_fopen(archive, name, 0);
    std::string text;
    char block[4096];
    for (zip_int64_t n; file && (n = zip_fread(file, block, sizeof block)) > 0;) text.append(block, size_t(n));
    if (file) zip_fclose(file);
    zip_discard(archive);
    return text;
}

} // namespace lp::test
