// A cut that stays inside the body, but for touching its skin at points or along lines: the kernel's boolean refuses
// those, and nothing has to be cut.
#pragma once
#include "shape/body.h"

namespace lp {

/// The body less tools that lie inside it and apart from each other: their skins, turned, become skins of the body. The
/// caller has made sure that they do (with triangles, say). A Problem when something is not one exact solid, or the
/// volumes do not add up.
Expected<Body> with_cavities(const Body& body, const std::vector<Body>& tools);

} // namespace lp
