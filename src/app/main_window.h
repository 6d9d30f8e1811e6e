// The window: tape above, shelf and the stretch's column left, the view with its offers, the layer strip, the ledger.
#pragma once
#include "app/session.h"
#include <QMainWindow>

class QHBoxLayout;
class QLabel;
class QPushButton;
class QScrollArea;

namespace lp {

class BedPanel;
class BuildSheet;
class CheckPanel;
class ExportPanel;
class FitPanel;
class HelpPanel;
class Ledger;
class LayerLinesView;
class LayerStrip;
class MapLegend;
class MoveHandles;
class NumbersTable;
class OffersBar;
class PoseCards;
class SettingsDialog;
class Shelf;
class SizeHandles;
class StandHandles;
class SupportHandles;
class BrushHandle;
class Tape;
class VariantsTable;
class VersionsDialog;
class ViewTools;
class ViewWidget;

class OutlineEditor;

class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    explicit MainWindow(Session* session);

    ViewWidget* view() const { return view_; }
    PoseCards* pose_cards() const { return poses_; }
    ViewTools* view_tools() const { return tools_; }
    BuildSheet* sheet() const { return sheet_; }
    Shelf* shelf() const { return shelf_; }
    Tape* tape() const { return tape_; }
    OffersBar* offers() const { return offers_; }
    NumbersTable* numbers() const { return numbers_; }
    void show_numbers();
    void show_variants();
    void show_versions();
    VersionsDialog* versions() const { return versions_; }
    void show_settings();
    /// A page of the help beside the view; the one of what is at hand when empty.
    void show_help(const QString& page);
    QString page_at_hand() const;
    HelpPanel* help() const { return help_; }
    SettingsDialog* settings_dialog() const { return settings_; }
    VariantsTable* variants() const { return variants_; }
    MapLegend* legend() const { return legend_.get(); }
    MoveHandles* handles() const { return handles_.get(); }
    SizeHandles* sizes() const { return sizes_.get(); }
    BrushHandle* brush() const { return brush_.get(); }
    SupportHandles* support_dots() const { return support_dots_.get(); }
    StandHandles* stands() const { return stands_.get(); }
    ~MainWindow() override;
    OutlineEditor* outline() const { return outline_; }
    Ledger* ledger() const { return ledger_; }
    LayerStrip* strip() const { return strip_; }
    LayerLinesView* layer_lines() const { return lines_; }
    FitPanel* fit_panel() const { return fit_; }
    CheckPanel* check_panel() const { return check_; }
    BedPanel* bed_panel() const { return bed_; }
    ExportPanel* export_panel() const { return export_; }
    QPushButton* undo_button() const { return undo_; }
    QPushButton* redo_button() const { return redo_; }

    bool save_to(const QString& path); ///< with a preview of the view
    void offer_recovery();
    void remember(const QString& path, const QImage& picture);

  signals:
    void restart_wanted(); ///< may_leave() was asked

  protected:
    void closeEvent(QCloseEvent*) override;
    /// Keys that nobody under the hand took: an offer's number, the typed line, Escape.
    void keyPressEvent(QKeyEvent*) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;

  private:
    QWidget* make_top_bar();
    QWidget* make_left_column();
    QWidget* make_middle();
    void make_shortcuts();
    void follow_facts();
    void connect_parts();
    void show_stretch();
    void show_title();
    void show_message(const QString& message, bool wrong);
    void update_scene(bool refit);
    void keep_in_sight();
    void shift_led();
    void ask_for_scene(bool refit); ///< at the end of this turn of the event loop
    void rename_project();
    void show_beside(QDialog* table);
    void take_keys_back();
    void place_handles();
    void make_size_handles();
    void place_size_handles();
    void make_stand_handles();
    void place_stand_handles();
    void make_brush();
    void place_brush();
    void make_support_handles();
    void place_support_handles();
    void ask_open();
    void ask_bring_in();
    bool ask_save(bool anew);
    bool may_leave(); ///< asks when there are unsaved changes

    Session* session_;
    Tape* tape_ = nullptr;
    QLabel* title_ = nullptr;
    QPushButton *undo_ = nullptr, *redo_ = nullptr;
    Shelf* shelf_ = nullptr;
    QScrollArea* column_ = nullptr;
    BuildSheet* sheet_ = nullptr;
    FitPanel* fit_ = nullptr;
    CheckPanel* check_ = nullptr;
    BedPanel* bed_ = nullptr;
    ExportPanel* export_ = nullptr;
    ViewWidget* view_ = nullptr;
    ViewTools* tools_ = nullptr;
    PoseCards* poses_ = nullptr;
    LayerLinesView* lines_ = nullptr;
    OffersBar* offers_ = nullptr;
    NumbersTable* numbers_ = nullptr;
    VariantsTable* variants_ = nullptr;
    VersionsDialog* versions_ = nullptr;
    SettingsDialog* settings_ = nullptr;
    HelpPanel* help_ = nullptr;
    QHBoxLayout* middle_ = nullptr; ///< column, view, help, strip
    std::unique_ptr<MapLegend> legend_;
    std::unique_ptr<MoveHandles> handles_;
    std::unique_ptr<SizeHandles> sizes_;
    std::unique_ptr<StandHandles> stands_;
    std::unique_ptr<BrushHandle> brush_;
    std::unique_ptr<SupportHandles> support_dots_;
    OutlineEditor* outline_ = nullptr;
    LayerStrip* strip_ = nullptr;
    Ledger* ledger_ = nullptr;
    QWidget* empty_ = nullptr;
    QWidget* recovery_ = nullptr;
    QPushButton* message_ = nullptr;
    Box3 seen_box_; ///< of the active part, in the last picture
    PartId seen_part_;
    bool scene_wanted_ = false, refit_wanted_ = false;
    std::tuple<Stretch, PartId, std::optional<ContactRef>, std::optional<FindingRef>, size_t> shown_place_;
};

} // namespace lp
