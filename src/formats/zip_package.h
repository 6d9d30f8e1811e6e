// Packages of parts in one zip file, in memory.
#pragma once
#include "base/problem.h"
#include <memory>
#include <string>
#include <utility>
#include <vector>

struct zip;

namespace lp {

struct ZipCloser {
    void operator()(zip* archive) const;
};
using ZipArchive = std::unique_ptr<zip, ZipCloser>;

/// For reading; `bytes` must stay. None where they are no zip file. `strictly`: nor where its directory and its parts
/// tell different things.
ZipArchive zip_archive(const std::string& bytes, bool strictly = false);

/// Names and bytes, in their order.
using ZipParts = std::vector<std::pair<std::string, std::string>>;

/// The same parts give the same bytes, whenever it is done. `quickly`: packed fast rather than small.
Expected<std::string> pack_zip(const ZipParts& parts, bool quickly = false);
/// Every part of a package that was made here: what strangers send is read with more care.
Expected<ZipParts> unpack_own_zip(const std::string& bytes);

} // namespace lp
