// Left column of the stretch Fit: contacts, movement, the table of fits, gauges, the printer and material cards.
#pragma once
#include "app/panels/card_section.h"
#include "app/panels/gauge_section.h"
#include "app/panels/movement_section.h"
#include "app/theme/marks.h"
#include <QPointer>

namespace lp {

/// A two-line row with a mark: title, numbers below; clicked or taken with Enter it becomes the active one.
class MarkRow : public QWidget {
    Q_OBJECT
  public:
    MarkRow(const QString& title, const QString& below, QWidget* parent);
    void set_mark(const theme::Mark& mark) { mark_ = mark; }
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
    theme::Mark mark_ = theme::Outcome::Sound;
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
    void add_led(const ContactResult& contact, Led led);
    Session* session_;
    std::vector<MarkRow*> contacts_;
    bool on_contact_ = false; ///< the focus was on the active contact's row
    QPointer<MovementSection> movements_;
    QPointer<GaugeSection> gauges_;
    QPointer<CardSection> cards_;
    std::map<std::string, ValueField*> fits_, places_;
};

} // namespace lp
