// The open project and everything known about it, in four: the document, the place of work, the results, and the worker
// beside the interface thread. Widgets read from here and send edits.
#pragma once
#include "app/taken_apart.h"
#include "handoff/export_project.h"
#include "handoff/number_rows.h"

namespace lp {

/// What the last practice print came to, in sentences.
struct PracticeReport {
    std::string part;
    std::vector<std::string> found, assumes;
};

class Session : public QObject {
    Q_OBJECT
  public:
    explicit Session(QObject* parent = nullptr);
    ~Session() override { worker_.end(); } ///< first of all: its work uses the others

    Worker& worker() { return worker_; }
    Document& document() { return document_; }
    const Document& document() const { return document_; }
    Workspace& workspace() { return workspace_; }
    const Workspace& workspace() const { return workspace_; }
    Results& results() { return results_; }
    const Results& results() const { return results_; }
    TakenApart& taken_apart() { return taken_apart_; }
    const TakenApart& taken_apart() const { return taken_apart_; }
    const ProjectPtr& project() const { return document_.project(); }

    void say(const QString& message, bool wrong = false) { document_.say(message, wrong); }
    void stop(); ///< work that is going on; files are finished
    /// Reads in the background; meshes become parts, a project is opened.
    void bring_in(const QStringList& files);
    void export_files(const ExportOptions& options);
    const std::vector<ReadBack>& last_export() const { return last_export_; }
    /// Once for each row of a table of numbers (CSV), into a folder a row.
    void export_table(const QString& table, const QString& folder, const std::vector<std::string>& formats);
    const PracticeReport& last_practice() const { return last_practice_; }
    void tell_practice(PracticeReport report);
    /// Asks for the drawing of an outline step to be opened in the view.
    void draw_outline(PartId part, StepId step) { emit outline_wanted(part, step); }
    /// Opens the drawing so that regions can be clicked for a step grown from it.
    void choose_regions(PartId part, StepId outline, StepId step) { emit regions_wanted(part, outline, step); }
    /// Asks for the first number of a step to be opened in its sentence.
    void edit_step(PartId part, StepId step) { emit step_wanted(part, step); }
    /// Waits until everything known is of the newest snapshot; for tests and pictures. False after `ms`.
    bool wait_until_done(int ms = 120000);

  signals:
    void exported();
    void practised();
    void lines_wanted();                   ///< the layer view of the active part is to be opened, or put away
    void section_wanted();                 ///< the view is to be cut open
    void plan_wanted(const QString& file); ///< a print plan made elsewhere is to be looked at
    void poses_wanted();                   ///< other ways the active part could lie are to be shown side by side
    void arranged();                       ///< things stand elsewhere on the beds: all of them are to be seen
    void panel_wanted();                   ///< all that can be done
    void numbers_wanted();                 ///< the table of named numbers
    void versions_wanted();                ///< versions of the design kept by a name
    void variants_wanted();                ///< the table of the active part's variants
    void settings_wanted();
    void help_wanted(const QString& page); ///< a page of the guide, or "keys"; empty: of what is at hand
    void outline_wanted(lp::PartId part, lp::StepId step);
    void step_wanted(lp::PartId part, lp::StepId step);
    void regions_wanted(lp::PartId part, lp::StepId outline, lp::StepId step);

  private:
    struct ReadFile {
        std::string name;
        std::shared_ptr<const std::string> bytes;
        Box3 box;
        size_t facets = 0;
        std::optional<std::string> colour; ///< of the largest thing in it, where the file tells one
    };
    void take_in(const ReadFile& file);

    Worker worker_;
    Document document_;
    Workspace workspace_;
    Results results_;
    TakenApart taken_apart_;
    std::vector<ReadBack> last_export_;
    PracticeReport last_practice_;
};

} // namespace lp
