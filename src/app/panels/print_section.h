// What a part needs of its print besides its pose: the plastic, the way it is pulled, its brim and its raft. In the
// stretch Bed.
#pragma once
#include "app/widgets/column.h"

namespace lp {

/// What the part is printed of and which way it is pulled.
void add_use_rows(Column* column, Session* session, const Part& part);
/// Where its print stops by hand, and a row for one more.
void add_stop_rows(Column* column, Session* session, const Part& part);
/// Where its layers have other heights than the card says, and a row for more.
void add_band_rows(Column* column, Session* session, const Part& part);
/// One more stop of the part's print: "7.2 mm, white from here". Why not, in words.
std::optional<Problem> add_stop(Session* session, PartId part, const std::string& typed);
/// The brim and the raft, and what they come to.
void add_foot_rows(Column* column, Session* session, const Part& part);

} // namespace lp
