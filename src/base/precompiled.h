// Headers nearly every source needs; compiled once. None of ours, here or in another precompiled header: where only a
// comment of one changed, the compiler's cache answers with the header of before, and the compiler, which knows a header
// it has read by its bytes, then reads ours a second time.
#pragma once
#include <algorithm>
#include <any>
#include <array>
#include <cmath>
#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <numbers>
#include <optional>
#include <string>
#include <string_view>
#include <type_traits>
#include <unordered_map>
#include <variant>
#include <vector>

#include <Eigen/Geometry>
#include <tl/expected.hpp>

// Named, so that they are worked out here and not in each source.
static_assert(sizeof(std::optional<Eigen::Vector3d>) && sizeof(std::vector<Eigen::Vector3d>) && sizeof(Eigen::AlignedBox3d) &&
              sizeof(Eigen::Isometry3d) && sizeof(std::map<std::string, std::string>) && sizeof(tl::expected<double, int>));
