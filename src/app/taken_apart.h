// The thing taken apart in the view: in which order its parts go together, and how far they are at it.
#pragma once
#include "app/results.h"
#include "project/assembly_order.h"

namespace lp {

class TakenApart : public QObject {
    Q_OBJECT
  public:
    TakenApart(Document& document, Workspace& workspace, Results& results, Worker& worker);
    /// Works the order out, now and after every change, until let_be().
    void work_out();
    void let_be();
    bool is_wanted() const { return wanted_; }
    /// Empty until it is known.
    const std::vector<AssemblyMove>& moves() const { return moves_; }
    bool is_current() const;
    /// 0: every part away from its place; the number of moves: all in place; in between the next one is on its way.
    void show(double together);
    double together() const { return together_; }
    bool is_apart() const { return together_ < double(moves_.size()); }
    /// Where a part is drawn; nothing for where it stands.
    std::optional<Transform> shown_at(PartId part) const;
    /// Moves a part one place earlier or later in the order; the whole order is kept by hand from then on.
    void reorder(size_t move, int by);

  signals:
    void ordered();
    void began_or_ended(); ///< being apart
    void shown(lp::PartId part, const std::optional<lp::Transform>& by);

  private:
    void follow();
    void tell_all();

    Document& document_;
    Workspace& workspace_;
    Results& results_;
    Worker& worker_;
    bool wanted_ = false;
    std::vector<AssemblyMove> moves_;
    std::shared_ptr<const Analysis> of_; ///< what they were worked out of, or are being
    std::shared_ptr<const Analysis> known_of_;
    double together_ = 1e9;
};

} // namespace lp
