// What can be done with what is selected: numbered buttons under the view, and a typed line that finds any of it by
// words.
#pragma once
#include "app/offers/act.h"
#include "app/session.h"
#include <QWidget>

class QLabel;
class QPushButton;
class QHBoxLayout;

namespace lp {

struct Offer {
    QString words;
    std::function<void()> run;
    QString hint;
};

class OffersBar : public QWidget {
    Q_OBJECT
  public:
    /// `view` is what the panel of all that can be done opens over.
    OffersBar(Session* session, QWidget* view, QWidget* parent = nullptr);
    void take(int number);        ///< 1 is the first
    void add_part(bool stand_in); ///< a new one, to be worked on
    /// Opens the panel of all that can be done, over the view's lower part.
    void open_panel();
    /// What fits the selection, as a menu: what the row offers, then the panel's entries that fit.
    void open_menu(const QPoint& global);
    class ActPanel* panel() const {
        return panel_;
    }
    bool has_selection() const { return !session_->workspace().selection().empty(); }
    /// Whether the panel lists it before anything is looked for: made for what is chosen, or a way to begin.
    bool begins_with(const Act& act) const;
    /// Everything there is, what fits the selection and what does not.
    std::vector<Act> all_acts();
    const std::vector<Offer>& offers() const { return offers_; }
    QString description() const;
    /// Offers of the drawing take the place of all others while one is open.
    void set_outline(class OutlineEditor* editor);
    void refresh();
    /// Does what a typed line says word for word: drawing, an offer of the row, a step kind with numbers; a problem in
    /// words otherwise.
    std::optional<QString> do_line(const QString& line);

  signals:
    void bring_in_wanted();
    void export_wanted();
    void save_wanted();
    void fit_view_wanted();
    void view_wanted(); ///< give the focus back to the view

  protected:
    void resizeEvent(QResizeEvent*) override;

  private:
    void offer_for_body(const Pick& pick);
    void offer_for_check();
    void offer_for_bed();
    void offer_for_nothing();
    void show_buttons();
    void draw_on(PartId part, const StepKind& kind, const std::string& plane);
    void offer_between(const Part& other, const Part& host);
    void offer_for_face(const Pick& pick);
    void offer_for_two();
    void offer_to_keep_measure();
    void offer_movements(const Pick& pick);
    void offer_marks();
    // shaping_offers.cpp
    void offer_steps(Chosen when, int from, int to);
    bool suits(const StepKind& kind, const StepOffer& offer) const;
    void take_offer(const StepKind& kind, const StepOffer& offer, PartId part);
    std::map<std::string, std::string> fields_of_offer(const StepKind& kind, const StepOffer& offer) const;
    bool offer_for_edges();
    bool offer_for_faces();
    void offer_more_for_face();
    void offer_more_faces();
    void extend_edges(bool round_the_face);
    void extend_faces();
    void offer_for_contact();
    PartId part_to_build(); ///< the active part, or a new one when there is none
    // all_acts.cpp
    bool is_chosen(Chosen when) const;
    Expected<std::map<std::string, std::string>> filled_in(const StepKind& kind, const QStringList& words,
                                                           std::map<std::string, std::string> fields) const;
    std::optional<QString> add_filled_in(const StepKind& kind, const QStringList& numbers,
                                         std::map<std::string, std::string> fields);
    std::optional<QString> add_between(const StepKind& kind, const QStringList& numbers,
                                       std::map<std::string, std::string> fields);
    void add_step_acts(std::vector<Act>& acts);
    // window_acts.cpp
    void add_window_acts(std::vector<Act>& acts);
    void add_new_acts(std::vector<Act>& acts);
    void add_check_acts(std::vector<Act>& acts);
    void add_lying_acts(std::vector<Act>& acts);
    void add_together_acts(std::vector<Act>& acts);
    void add_beds_acts(std::vector<Act>& acts);
    /// What is wanted of chosen faces and picked places in print, and what the brush makes.
    void add_chosen_acts(std::vector<Act>& acts);
    void add_file_acts(std::vector<Act>& acts);
    /// A drawing's own: what its row offers, and files that come into it.
    void add_drawing_acts(std::vector<Act>& acts);
    void draw_letters(bool round);
    // shaping_offers.cpp
    void add_choosing_acts(std::vector<Act>& acts);
    void switch_supports();

    Session* session_;
    OutlineEditor* outline_ = nullptr;
    std::vector<Offer> offers_;
    QLabel* label_;
    QWidget* buttons_;
    QHBoxLayout* button_row_;
    QPushButton* open_;
    ActPanel* panel_;
};

/// "Face 64 mm² · round, ⌀ 6.00" or "Edge 12.00 mm long"; empty for nothing.
QString describe_pick(const Session& session, const Pick& pick);
/// Words for what is chosen, with what is measured of it.
QString selection_words(const Session& session);

} // namespace lp
