// Buttons over the view: where it looks from, what is drawn, the section, a picture.
#pragma once
#include "app/session.h"
#include <QWidget>

class QComboBox;
class QDoubleSpinBox;
class QPushButton;
class QSlider;

namespace lp {

class ViewWidget;

class ViewTools : public QWidget {
    Q_OBJECT
  public:
    ViewTools(Session* session, ViewWidget* view);
    /// Looks square on at the chosen face, or along the nearest axis.
    void square_on();
    /// Opens or closes the bar that moves the section plane.
    void show_section(bool on);
    bool section_is_shown() const;
    QDoubleSpinBox* section_place() const { return place_; }
    QComboBox* section_way() const { return way_; }
    bool save_picture(const QString& file); ///< of the view as PNG

  signals:
    void drawing_changed(); ///< edges, isolation: the scene is to be made anew

  private:
    void open_menu(QPushButton* at);
    QWidget* make_section_bar();
    void take_section();
    Vec3 section_normal() const;
    std::pair<double, double> section_span() const;

    Session* session_;
    ViewWidget* view_;
    QWidget* bar_ = nullptr;
    QComboBox* way_ = nullptr;
    QDoubleSpinBox* place_ = nullptr;
    QSlider* slider_ = nullptr;
    QPushButton* flip_ = nullptr;
    Vec3 face_normal_ = Vec3::UnitZ();
};

} // namespace lp
