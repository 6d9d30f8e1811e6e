// What the brush leaves behind as a field's text.
#pragma once
#include "mesh/brush.h"
#include <string>

namespace lp {

constexpr size_t most_face_dabs = 20'000;

/// A dab is "x y z  nx ny nz  radius", in mm, with "off" behind it where it wipes; dabs by semicolons.
std::string text_of(const std::vector<Dab>& dabs);
/// Fails on other words, and as check_dabs() does.
Expected<std::vector<Dab>> read_dabs(const std::string& text);

} // namespace lp
