// Packages of parts in one zip file, in memory.
#pragma once
#include "base/problem.h"
#include <functional>
#include <string>

namespace lp {

/// The package with the one part whose name ends so changed; all others as they are. `change` says whether it could.
/// Packed quickly rather than small.
Expected<std::string> change_package(const std::string& package, const std::string& ending,
                                     const std::function<bool(std::string&)>& change);

} // namespace lp
