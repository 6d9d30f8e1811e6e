// Headers nearly every source needs; compiled once.
#pragma once
#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

#include <Eigen/Geometry>
#include <tl/expected.hpp>

#include "base/geometry.h"
#include "base/problem.h"
#include "base/task.h"

// Named, so that they are worked out here and not in each source.
static_assert(sizeof(std::optional<lp::Vec3>) && sizeof(std::vector<lp::Vec3>) && sizeof(lp::Box3) &&
              sizeof(lp::Transform) && sizeof(std::map<std::string, std::string>) && sizeof(lp::Expected<double>));
