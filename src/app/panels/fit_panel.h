// Left column of the stretch Fit: contacts, movement, the table of fits, gauges, the printer and material cards.
#pragma once
#include "app/panels/card_section.h"
#include "app/panels/gauge_section.h"
#include "app/panels/movement_section.h"
#include <QPointer>

namespace lp {

/// A two-line row with a mark: title, numbers below; clicked or taken with Enter it becomes the active one.
class MarkRow : public QWidget {
    Q_OBJECT
  public:
    MarkRow(const QString& title, const QString& below, QWidget* parent);
    void set_ring(FitState state) { ring_ = state; }
    void set_finding(const QString& kind) { finding_ = kind; }
    void set_active(bool on);
    QString title() const { return title_; }
    QString below() const { return below_; }
    QSize sizeHint() const override { return {300, 44}; }

  signals:
    void chosen();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override {
        setFocus();
        emit chosen();
    }
    void keyPressEvent(QKeyEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }
    void enterEvent(QEnterEvent*) override { hover_ = true, update(); }
    void leaveEvent(QEvent*) override { hover_ = false, update(); }

  private:
    QString title_, below_, finding_;
    std::optional<FitState> ring_;
    bool active_ = false, hover_ = false;
};

class FitPanel : public Column {
    Q_OBJECT
  public:
    explicit FitPanel(Session* session, QWidget* parent = nullptr);
    const std::vector<MarkRow*>& contact_rows() const { return contacts_; }
    ValueField* fit_field(const std::string& name) const;
    /// "at_x" to "turn_z" of where the active part stands; null for no part.
    ValueField* place_field(const std::string& name) const {
        auto found = places_.find(name);
        return found == places_.end() ? nullptr : found->second;
    }

    MovementSection* movements() const { return movements_; }
    GaugeSection* gauges() const { return gauges_; }
    CardSection* cards() const { return cards_; }

  private:
    void rebuild() override;
    void add_place();
    Session* session_;
    std::vector<MarkRow*> contacts_;
    QPointer<MovementSection> movements_;
    QPointer<GaugeSection> gauges_;
    QPointer<CardSection> cards_;
    std::map<std::string, ValueField*> fits_, places_;
};

/// "Vial in Holder"; of bodies of one part "link 1 and link 2 of Drain chain".
QString contact_title(const ContactResult& contact);
/// "loose · wanted 0.40 · found 0.38 … 0.41 mm": a contact in numbers.
QString contact_words(const Project& project, const ContactResult& contact);
/// What a person should know besides: share too tight, fused layers, one lump. Empty when there is nothing.
QString contact_warning(const ContactResult& contact);

} // namespace lp
