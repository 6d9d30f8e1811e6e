// How it is said that a name is not among those there are.
#pragma once
#include "base/problem.h"
#include <vector>

namespace lp {

/// "There are: a, b.", or "There is none." A list too long for a sentence is left out.
std::string those_there(const std::vector<std::string>& names);
/// "There is no number called "depth". There are: wall, wide." The name may never have been: it is not called gone.
Problem no_such(const std::string& what, const std::string& name, const std::vector<std::string>& there);

} // namespace lp
