// Applies edits to a working copy of a project. What an edit does is in a file by what it is about: edit_steps,
// edit_parts, edit_printing, edit_numbers, edit_assembly.
#pragma once
#include "base/no_such.h"
#include "base/text.h"
#include "project/edit.h"
#include "project/typed_numbers.h"

namespace lp {

/// Applies one edit after the other to a working copy.
class Applier {
  public:
    explicit Applier(const Project& from) : project_(from) {}

    std::optional<Problem> apply(const SingleEdit& edit);
    /// Lets formulas of cards, fits and supports follow what was edited.
    std::optional<Problem> follow(const Project& before);
    Project take() { return std::move(project_); }
    const std::string& sentence() const { return sentence_; }

  private:
    void fail(Problem problem) { problem_ = std::move(problem); }
    static Problem missing(const std::string& what) {
        return {ProblemCode::Missing, what + " is not there any more.", "Choose it again."};
    }
    /// What things are called, for saying which there are.
    template <class Things, class NameOf> static std::vector<std::string> names_of(const Things& things, NameOf of) {
        std::vector<std::string> names;
        for (const auto& thing : things) names.push_back(thing.*of);
        return names;
    }
    Problem no_such_number(const std::string& name) const {
        return no_such("number", name, names_of(project_.parameters, &Parameter::name));
    }
    static std::optional<Problem> check_name(const std::string& name, const std::string& whose);
    static void fill_fields(Step& step);
    Expected<ParameterValues> values() const { return project_values(project_); }

    template <class Change> void change_part(PartId id, Change change) {
        for (PartPtr& part : project_.parts)
            if (part->id == id) {
                auto next = std::make_shared<Part>(*part);
                change(*next);
                if (!problem_) part = next;
                return;
            }
        fail(missing("That part"));
    }

    template <class Change> void change_step(PartId part, StepId step, Change change) {
        change_part(part, [&](Part& p) {
            for (size_t i = 0; i < p.steps.size(); ++i)
                if (p.steps[i].id == step) return change(p, i);
            fail(missing("That step"));
        });
    }

    void check_value(const StepField& field, const FieldValue& value);
    void check_quantity(const StepField& field, const std::string& text, const ParameterValues& numbers);
    void check_movement_fields(const KeptMovement& movement);

    // edit_steps.cpp
    void on(const SetField& e);
    void on(const SetDrawing& e);
    void on(const CopyStep& e);
    void on(const AddStep& e);
    void on(const RemoveStep& e);
    void on(const MoveStep& e);
    void on(const SwitchStep& e);
    void on(const NameStep& e);
    void on(const GroupSteps& e);
    // edit_parts.cpp
    void on(const AddPart& e);
    void on(const RemovePart& e);
    void on(const RenamePart& e);
    void on(const SetQuantity& e);
    void on(const SetColour& e);
    void on(const SetVisible& e);
    void on(const SetSeeThrough& e);
    void on(const SetStandIn& e);
    void on(const SetFaceMarks& e);
    void on(const SetBrushed& e);
    void on(const SetLoad& e);
    void on(const SetPartMaterial& e);
    void on(const SetPlace& e);
    void on(const KeepVariant& e);
    void on(const UseVariant& e);
    void on(const RemoveVariant& e);
    void on(const SetWayOut& e);
    // edit_printing.cpp
    void on(const SetPose& e);
    void on(const SetStops& e);
    void on(const SetBands& e);
    void on(const SetPoseWeights& e);
    void on(const SetStands& e);
    void on(const SetBeds& e);
    void on(const SetSupports& e);
    void on(const SetPrinter& e);
    void on(const SetMaterial& e);
    // edit_numbers.cpp
    void on(const SetParameter& e);
    void on(const SetReadings& e);
    void on(const RenameParameter& e);
    void on(const RemoveParameter& e);
    void on(const SetFitGap& e);
    void on(const SetNumber& e);
    // edit_assembly.cpp
    void on(const KeepVersion& e);
    void on(const RemoveVersion& e);
    void on(const TakeFromVersion& e);
    void on(const SetAssembly& e);
    void on(const AddMeasure& e);
    void on(const RemoveMeasure& e);
    void on(const SetContact& e);
    void on(const AddMovement& e);
    void on(const SetMovement& e);
    void on(const RemoveMovement& e);
    void on(const SetProjectName& e);
    void on(const AddImport& e);

    Project project_;
    std::string sentence_;
    std::optional<Problem> problem_;
};

} // namespace lp
