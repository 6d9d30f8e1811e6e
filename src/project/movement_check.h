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
/// The same with the picked face or edge found again in the newest bodies, as drawn.
Expected<MovementPath> found_path(const Evaluation& evaluation, const KeptMovement& movement);
/// Where it is left, between its ends; nothing: as drawn. A Problem for what cannot be read or lies outside.
Expected<std::optional<double>> stands_at(const KeptMovement& movement, const MovementPath& path,
                                          const ParameterValues& values);

struct MovementOutcome {
    MovementPath path;
    MovementResult result;
    std::optional<Play> play;       ///< none when it touches as drawn
    std::vector<std::string> still; ///< names of what stood beside, as numbered in the interferences
    Participant moving;
    std::vector<std::string> along; ///< names of what sits on it and goes along
    std::string rests_on;           ///< it begins on its seat there and leaves it at once, which is no contact
    bool printed = false;           ///< bodies as a practice print leaves them
    uint64_t key = 0;               ///< movement_key() of what it was run with
};
/// Runs it beside every other body (or those named), which are where their own movements left them; what sits on the
/// body goes along. Those of `printed` are as they are there. Long: minutes for huge bodies; stops on request.
Expected<MovementOutcome> run_movement(const Evaluation& evaluation, const KeptMovement& movement,
                                       const Task& task = {}, const PrintedParts* printed = nullptr);
/// The same with every part that takes part printed in practice first.
Expected<MovementOutcome> run_movement_as_printed(const Evaluation& evaluation, const Analysis& analysis,
                                                  const KeptMovement& movement, const Task& task = {});

/// Fingerprint of all that the outcome comes of: the bodies, where they stand, and the way, but not where this movement
/// is left itself.
uint64_t movement_key(const Evaluation& evaluation, const KeptMovement& movement);

} // namespace lp
