// A kept movement as a path, and what comes of it with the bodies as they are now.
#pragma once
#include "fit/movement.h"
#include "project/printed_contacts.h"
#include <span>

namespace lp {

/// A way to move: its name in files, its words for a person, what its beginning and end are measured in and where it
/// stands when it is first asked for.
struct MovementKind {
    MovementPath::Kind kind;
    const char *name, *words;
    QuantityKind along;
    const char *from, *to, *step;
};
std::span<const MovementKind> movement_kinds();
/// Nothing when there is none of that name.
const MovementKind* find_movement_kind(std::string_view name);

/// The path with its expressions worked out; the axis as typed (found_path() puts the picked one in). A Problem when
/// an expression cannot be read or the path makes no sense.
Expected<MovementPath> movement_path(const KeptMovement& movement, const ParameterValues& values);
/// The same with the picked face or edge found again in the newest bodies.
Expected<MovementPath> found_path(const Evaluation& evaluation, const KeptMovement& movement);

struct MovementOutcome {
    MovementPath path;
    MovementResult result;
    std::optional<Play> play;       ///< none when it touches as drawn
    std::vector<std::string> still; ///< names of what stood beside, as numbered in the interferences
    Participant moving;
    bool printed = false; ///< bodies as a practice print leaves them
};
/// Runs it beside every other body (or those named), as drawn; those of `printed` as they are there. Long: minutes for
/// huge bodies; stops on request.
Expected<MovementOutcome> run_movement(const Evaluation& evaluation, const KeptMovement& movement,
                                       const Task& task = {}, const PrintedParts* printed = nullptr);
/// The same with every part that takes part printed in practice first.
Expected<MovementOutcome> run_movement_as_printed(const Evaluation& evaluation, const Analysis& analysis,
                                                  const KeptMovement& movement, const Task& task = {});

} // namespace lp
