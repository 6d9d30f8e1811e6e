// Where the bodies stand once their movements are left at a position (KeptMovement::stands), apart from where they are
// drawn: hinges, drawers and arms. Cuts, fits and what is printed go by what is drawn.
#pragma once
#include "project/movement_check.h"

namespace lp {

/// A body is led by its own movements in their order, and goes along with what its first seat lies on.
class Standing {
  public:
    Standing() = default; ///< all as drawn
    explicit Standing(const Evaluation& made);

    bool as_drawn() const; ///< nothing stands elsewhere
    /// From where it is drawn to where it stands, in the assembly.
    Transform of(PartId part, size_t body) const;
    /// Of all its bodies; the first one's where they stand apart.
    Transform of(PartId part) const { return of(part, 0); }
    /// With one movement somewhere else for a moment; nothing: as drawn.
    Standing with(MovementId movement, std::optional<double> position) const;
    /// As it is when this movement begins, which may be one that is not kept yet.
    Standing before(const Evaluation& made, const KeptMovement& movement) const;
    /// Whether that movement leads this body: the one that moves, or what goes along with it.
    bool leads(MovementId movement, PartId part, size_t body) const;
    /// The path among the parts as they stand. None: it could not be found.
    std::optional<MovementPath> path_of(MovementId movement) const;
    std::optional<double> position_of(MovementId movement) const;
    /// Why it stands as drawn all the same; null when it does not.
    const Problem* problem_of(MovementId movement) const;
    /// Of the movements that move this part.
    std::vector<Problem> problems_of(PartId part) const;
    /// "Lid at 90°", each that is led away.
    std::vector<std::string> words() const;

  private:
    struct BodyOf {
        PartId part;
        size_t body = 0;
    };
    struct Led {
        MovementId id;
        Participant moving;
        std::optional<MovementPath> path; ///< among the parts as drawn
        std::optional<double> at;         ///< only with a path
        std::optional<Problem> wrong;     ///< of one that is to be left somewhere
        bool moves(const BodyOf& it) const {
            return path && moving.part == it.part && (!moving.body || *moving.body == it.body);
        }
    };
    static Led led_by(const Evaluation& made, const KeptMovement& movement);
    const Led* led(MovementId movement) const;
    /// On to what it lies on. False: it stands by itself. Seats go in no circle: such a part has no place.
    bool go_below(BodyOf& it) const;

    std::vector<Led> led_;
    std::map<PartId, BodyOf> carriers_; ///< what a part lies on
};

/// Where the bodies of an evaluation stand.
const Standing& standing_of(const Evaluation& evaluation);
/// A part's triangles where it stands, in the assembly; `body`: only that one.
TriMesh mesh_where_it_stands(const PartResult& part, const Standing& standing, std::optional<size_t> body = {});
/// "90°", "12.5 mm", "leg 1.5".
std::string position_words(const MovementPath& path, double position);

} // namespace lp
