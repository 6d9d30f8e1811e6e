// Left column of the stretch Export: files and what was read back, the sheet for the workshop, where the print stops,
// what to buy, the practice print, the estimate.
#pragma once
#include "app/panels/fit_panel.h"
#include "handoff/pdf_writer.h"

class QPushButton;

namespace lp {

class ExportPanel : public Column {
    Q_OBJECT
  public:
    explicit ExportPanel(Session* session, QWidget* parent = nullptr);
    void export_now();
    void set_folder(const QString& folder);
    QPushButton* export_button() const { return button_; }
    QPushButton* sheet_button() const { return sheet_; }
    QPushButton* look_button() const { return look_; }
    QPushButton* practice_button() const { return practice_; }
    QPushButton* drawing_button() const { return drawing_; }

  private:
    void rebuild() override;
    void add_formats();
    void add_folder();
    void add_read_back();
    void add_estimate();
    void add_hardware();
    void add_pauses();
    void add_sheet();
    void add_drawing();
    void add_practice();
    QPushButton* add_button(const QString& words, const QString& hint);
    Session* session_;
    QPushButton *button_ = nullptr, *sheet_ = nullptr, *look_ = nullptr, *practice_ = nullptr, *drawing_ = nullptr;
    Paper paper_ = Paper::A4;
    QString folder_;
    std::set<std::string> formats_; ///< ids of the chosen ones
    bool with_sheet_ = false;
    double deflection_mm_ = 0.01;
    std::string deflection_formula_; ///< as typed, where that was more than a number
};

} // namespace lp
