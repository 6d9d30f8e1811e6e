// What cures faces that hang: slopes cut into roofs, chamfers, webs and layers put under ledges, the part in two.
#pragma once
#include "project/cure_places.h"
#include "project/cures.h"

namespace lp {

/// A step of a kind with these fields, for the part of a place.
FindingCure cure_by_step(const FacePlace& place, const std::string& words, const std::string& hint,
                         const std::string& kind, std::map<std::string, std::string> fields);
/// For each face that hangs, of findings Hanging, Bridge and LyingHole.
void add_hanging_cures(const PosedPart& posed, FindingKind kind, const PrinterCard& card,
                       std::vector<FindingCure>& cures);

} // namespace lp
