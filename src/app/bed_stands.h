// Copies put elsewhere on the beds, by hand or all of them arranged.
#pragma once
#include "app/bed_layout.h"

namespace lp {

/// Puts a copy there. The others stay where they are seen to stand: from now on nothing moves by itself.
void put_on_bed(Session& session, PartId part, int copy, const BedStand& stand);
/// Everything anew in the background, round what is locked; says on how many beds, or why not.
void arrange_everything(Session& session);
/// Nothing is put anywhere any more: all stand in rows.
void back_in_rows(Session& session);
/// The copy of the active part that is in hand; none when it is not printed.
std::optional<BedCopy> copy_in_hand(const Session& session, const BedLayout& layout);

} // namespace lp
