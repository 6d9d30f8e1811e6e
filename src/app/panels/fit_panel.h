// Left column of the stretch Fit: the gap ruler with the contacts, movement, the table of fits, gauges, the printer and
// material cards.
#pragma once
#include "app/panels/assembly_section.h"
#include "app/panels/card_section.h"
#include "app/panels/gap_ruler.h"
#include "app/panels/gauge_section.h"
#include "app/panels/measured_section.h"
#include "app/panels/movement_section.h"
#include "project/printed_contacts.h"
#include <QPointer>

class QPushButton;

namespace lp {

class FitPanel : public Column {
    Q_OBJECT
  public:
    explicit FitPanel(Session* session, QWidget* parent = nullptr);
    const std::vector<ContactRow*>& contact_rows() const { return contacts_; }
    GapRuler* ruler() const { return ruler_; }
    ValueField* fit_field(const std::string& name) const;
    /// "at_x" to "turn_z" of where the active part stands, "seat_gap_1" of its first seat; null for no part.
    ValueField* place_field(const std::string& name) const {
        auto found = places_.find(name);
        return found == places_.end() ? nullptr : found->second;
    }

    MovementSection* movements() const { return movements_; }
    AssemblySection* assembly() const { return assembly_; }
    GaugeSection* gauges() const { return gauges_; }
    MeasuredSection* measured() const { return measured_; }
    CardSection* cards() const { return cards_; }
    QPushButton* print_button() const { return print_; }

  private:
    void rebuild() override;
    void add_contacts();
    void add_assembly();
    void add_movements();
    void add_print_button();
    void print_contacts();
    const PrintedContact* printed(const ContactResult& contact) const;
    void add_fits();
    void add_place();
    void add_seats(const Part& part);
    ValueField* add_place_field(const Part& part, const std::string& id, const QString& words, const QString& hint,
                                const std::string& text, QuantityKind kind,
                                std::function<void(AssemblyPlace&, const std::string&)> put);
    /// A line that sums a table up; a press unfolds it.
    bool add_fold(const QString& title, const QString& sum, const char* name, bool& open);
    void add_led(const ContactResult& contact, Led led);
    Session* session_;
    std::vector<ContactRow*> contacts_;
    QPointer<GapRuler> ruler_;
    bool fits_open_ = false, place_open_ = false; ///< tables that fold away
    bool on_contact_ = false;                     ///< the focus was on the active contact's row
    bool on_ruler_ = false;
    bool together_ = false;               ///< how it goes together stood at the top
    bool led_first_ = false;              ///< movements stand at the top: one was added in this stretch
    bool led_new_ = false;                ///< the newest one waits for its end
    std::string chosen_fit_;              ///< on the rule
    std::vector<PrintedContact> printed_; ///< as a practice print left them
    ProjectPtr printed_of_;               ///< the project that was printed: after an edit they mean nothing
    QPointer<QPushButton> print_;
    QPointer<MovementSection> movements_;
    QPointer<AssemblySection> assembly_;
    PartId way_of_; ///< whose way is to be typed
    QPointer<GaugeSection> gauges_;
    QPointer<MeasuredSection> measured_;
    QPointer<CardSection> cards_;
    std::map<std::string, ValueField*> fits_, places_;
};

} // namespace lp
