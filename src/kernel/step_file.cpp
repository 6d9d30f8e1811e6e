#include "kernel/step_file.h"
#include "kernel/solids_of.h"
#include "kernel/sound_solids.h"
#include "kernel/step_model.h"
#include "shape/exact_shape.h"
#include <APIHeaderSection_MakeHeader.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRep_Builder.hxx>
#include <Interface_Static.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <Quantity_Color.hxx>
#include <STEPConstruct_Styles.hxx>
#include <STEPControl_Controller.hxx>
#include <STEPControl_Reader.hxx>
#include <STEPControl_Writer.hxx>
#include <StepBasic_Product.hxx>
#include <StepBasic_ProductDefinition.hxx>
#include <StepBasic_ProductDefinitionFormation.hxx>
#include <StepData_Protocol.hxx>
#include <StepData_StepModel.hxx>
#include <StepData_StepWriter.hxx>
#include <StepRepr_NextAssemblyUsageOccurrence.hxx>
#include <StepRepr_ProductDefinitionShape.hxx>
#include <StepRepr_RepresentationItem.hxx>
#include <StepRepr_ShapeRepresentationRelationship.hxx>
#include <StepShape_ManifoldSolidBrep.hxx>
#include <StepShape_ShapeDefinitionRepresentation.hxx>
#include <StepShape_ShapeRepresentation.hxx>
#include <StepShape_SolidModel.hxx>
#include <StepVisual_Colour.hxx>
#include <StepVisual_MechanicalDesignGeometricPresentationRepresentation.hxx>
#include <StepVisual_PresentationStyleAssignment.hxx>
#include <StepVisual_StyledItem.hxx>
#include <TCollection_HAsciiString.hxx>
#include <TopoDS_Compound.hxx>
#include <TransferBRep.hxx>
#include <TransferBRep_ShapeBinder.hxx>
#include <TransferBRep_ShapeMapper.hxx>
#include <Transfer_FinderProcess.hxx>
#include <Transfer_TransientProcess.hxx>
#include <XSControl_TransferReader.hxx>
#include <XSControl_TransferWriter.hxx>
#include <XSControl_WorkSession.hxx>
#include <map>
#include <set>
#include <sstream>

namespace lp {
namespace {

/// The library prints what it does; the programs' output is theirs.
void be_quiet() {
    Message::DefaultMessenger()->ChangePrinters().Clear();
}

/// Code points of UTF-8; what is not is passed over.
std::vector<uint32_t> code_points(const std::string& text) {
    std::vector<uint32_t> points;
    for (size_t i = 0; i < text.size();) {
        const auto c = uint8_t(text[i]);
        const size_t more = c < 0x80 ? 0 : c >> 5 == 6 ? 1 : c >> 4 == 14 ? 2 : c >> 3 == 30 ? 3 : 9;
        if (more == 9 || i + more >= text.size() + (more == 0)) {
            ++i;
            continue;
        }
        uint32_t point = more == 0 ? c : c & (0x3f >> more);
        for (size_t k = 1; k <= more; ++k) point = point << 6 | (uint8_t(text[i + k]) & 0x3f);
        points.push_back(point);
        i += more + 1;
    }
    return points;
}

void add_utf8(std::string& text, uint32_t p) {
    if (p < 0x80) {
        text += char(p);
    } else if (p < 0x800) {
        text += char(0xc0 | p >> 6);
        text += char(0x80 | (p & 0x3f));
    } else if (p < 0x10000) {
        text += char(0xe0 | p >> 12);
        text += char(0x80 | (p >> 6 & 0x3f));
        text += char(0x80 | (p & 0x3f));
    } else {
        text += char(0xf0 | p >> 18);
        text += char(0x80 | (p >> 12 & 0x3f));
        text += char(0x80 | (p >> 6 & 0x3f));
        text += char(0x80 | (p & 0x3f));
    }
}

/// ISO 10303-21, 6.4.3: printable characters as they are, others by their code points. The library doubles quotes.
std::string encoded(const std::string& text) {
    std::string result;
    char hex[32];
    for (uint32_t p : code_points(text)) {
        if (p >= 0x20 && p < 0x7f && p != '\\') {
            result += char(p);
        } else if (p < 0x10000) {
            std::snprintf(hex, sizeof hex, "\\X2\\%04X\\X0\\", p);
            result += hex;
        } else {
            std::snprintf(hex, sizeof hex, "\\X4\\%08X\\X0\\", p);
            result += hex;
        }
    }
    return result;
}

/// The same back; also \X\hh and \S\c of older files.
std::string decoded(const std::string& text) {
    std::string result;
    for (size_t i = 0; i < text.size();) {
        const bool wide = text.compare(i, 4, "\\X2\\") == 0, wider = text.compare(i, 4, "\\X4\\") == 0;
        if (wide || wider) {
            const size_t digits = wide ? 4 : 8, end = text.find("\\X0\\", i);
            for (i += 4; i + digits <= std::min(end, text.size()); i += digits)
                add_utf8(result, uint32_t(std::strtoul(text.substr(i, digits).c_str(), nullptr, 16)));
            i = end == std::string::npos ? text.size() : end + 4;
        } else if (text.compare(i, 3, "\\X\\") == 0 && i + 5 <= text.size()) {
            add_utf8(result, uint32_t(std::strtoul(text.substr(i + 3, 2).c_str(), nullptr, 16)));
            i += 5;
        } else if (text.compare(i, 3, "\\S\\") == 0 && i + 4 <= text.size()) {
            add_utf8(result, uint8_t(text[i + 3]) + 128u);
            i += 4;
        } else if (text.compare(i, 2, "\\\\") == 0) {
            result += '\\';
            i += 2;
        } else {
            result += text[i++];
        }
    }
    return result;
}

std::string text_of(const Handle(TCollection_HAsciiString) & text) {
    return text.IsNull() ? std::string() : decoded(text->ToCString());
}

Problem not_written(const std::string& name) {
    return {ProblemCode::Geometry, "The geometry kernel could not write \"" + name + "\" as STEP.",
            "Export it as STL, OBJ or 3MF."};
}

/// What an object of the file is called, and its shapes there: its solids, and what holds them when they are several.
struct WrittenObject {
    std::string name;
    uint32_t colour = 0;
    std::vector<TopoDS_Shape> solids;
    TopoDS_Shape whole;
};

/// `styles` is made once for all: it walks through the whole model when it is.
void paint(STEPConstruct_Styles& styles, const Handle(XSControl_WorkSession) & session,
           const Handle(StepShape_SolidModel) & solid, const Handle(StepRepr_Representation) & in, uint32_t colour) {
    styles.ClearStyles();
    const Quantity_Color rgb((colour >> 16 & 255) / 255.0, (colour >> 8 & 255) / 255.0, (colour & 255) / 255.0,
                             Quantity_TOC_sRGB);
    const Handle(StepVisual_Colour) paint = STEPConstruct_Styles::EncodeColor(rgb);
    styles.AddStyle(solid, styles.MakeColorPSA(solid, paint, paint, nullptr, 0.0), nullptr);
    Handle(StepVisual_MechanicalDesignGeometricPresentationRepresentation) drawn;
    styles.CreateMDGPR(in->ContextOfItems(), drawn);
    if (!drawn.IsNull()) session->Model()->AddWithRefs(drawn, session->Protocol());
}

/// Curves of edges in the plane of a surface's own numbers: on planes, cylinders and cones every reader finds them from
/// the edge, and they are more than half of a file.
bool needs_flat_curves(const TopoDS_Shape& solid) {
    for (TopExp_Explorer face(solid, TopAbs_FACE); face.More(); face.Next()) {
        const GeomAbs_SurfaceType kind = BRepAdaptor_Surface(TopoDS::Face(face.Current()), false).GetType();
        if (kind != GeomAbs_Plane && kind != GeomAbs_Cylinder && kind != GeomAbs_Cone) return true;
    }
    return false;
}

/// Each object with shapes of its own, though they were copies of one: else it is no second.
std::vector<WrittenObject> objects_of(const KernelCall& call) {
    std::set<const void*> there;
    std::vector<WrittenObject> objects;
    for (size_t i = 0; i < call.shapes.size(); ++i) {
        WrittenObject object{call.texts[i], uint32_t(call.numbers[i]), {}, {}};
        for (TopExp_Explorer solid(call.shapes[i], TopAbs_SOLID); solid.More(); solid.Next()) {
            const bool fresh = there.insert(solid.Current().TShape().get()).second;
            object.solids.push_back(fresh ? solid.Current() : BRepBuilderAPI_Copy(solid.Current()).Shape());
        }
        if (object.solids.empty()) continue;
        object.whole = object.solids.front();
        if (object.solids.size() > 1) {
            TopoDS_Compound all;
            BRep_Builder().MakeCompound(all);
            for (const TopoDS_Shape& solid : object.solids) BRep_Builder().Add(all, solid);
            object.whole = all;
        }
        objects.push_back(std::move(object));
    }
    return objects;
}

Handle(TCollection_HAsciiString) line(const std::string& text) {
    return new TCollection_HAsciiString(encoded(text).c_str());
}

/// What became of the shapes of a writer.
class WrittenShapes {
  public:
    explicit WrittenShapes(const STEPControl_Writer& writer)
        : process_(writer.WS()->TransferWriter()->FinderProcess()) {}

    /// Gives the product of a shape its name: the library counts products as long as it runs.
    Handle(StepRepr_Representation) name(const TopoDS_Shape& shape, const std::string& text) const {
        const auto defined = found<StepShape_ShapeDefinitionRepresentation>(shape);
        if (defined.IsNull()) return nullptr;
        const auto its = Handle(StepRepr_ProductDefinitionShape)::DownCast(defined->Definition().PropertyDefinition());
        if (!its.IsNull() && !its->Definition().ProductDefinition().IsNull()) {
            const Handle(StepBasic_Product) product = its->Definition().ProductDefinition()->Formation()->OfProduct();
            product->SetId(line(text));
            product->SetName(line(text));
        }
        return defined->UsedRepresentation();
    }
    Handle(StepShape_SolidModel) solid(const TopoDS_Shape& shape) const { return found<StepShape_SolidModel>(shape); }

  private:
    template <class Entity> opencascade::handle<Entity> found(const TopoDS_Shape& shape) const {
        // Where a thing stands is the matter of what holds it.
        for (const TopoDS_Shape& one : {shape.Located({}), shape}) {
            opencascade::handle<Standard_Transient> entity;
            const Handle(TransferBRep_ShapeMapper) mapper = TransferBRep::ShapeMapper(process_, one);
            if (process_->FindTypedTransient(mapper, STANDARD_TYPE(Entity), entity))
                return opencascade::handle<Entity>::DownCast(entity);
        }
        return nullptr;
    }
    Handle(Transfer_FinderProcess) process_;
};

Expected<KernelAnswer> written(const KernelCall& call) {
    be_quiet();
    const std::vector<WrittenObject> objects =
        call.texts.size() == call.shapes.size() + 1 && call.numbers.size() == call.shapes.size()
            ? objects_of(call)
            : std::vector<WrittenObject>();
    if (objects.empty()) return problem(ProblemCode::Missing, "There is nothing to write.", "Make a part first.");
    const std::string& title = call.texts.back();
    STEPControl_Controller::Init();
    Interface_Static::SetCVal("write.step.schema", "AP214IS");
    Interface_Static::SetCVal("write.step.unit", "MM");
    // Several objects are an assembly by the name of the project; one stands alone.
    TopoDS_Compound assembly;
    BRep_Builder().MakeCompound(assembly);
    for (const WrittenObject& object : objects) BRep_Builder().Add(assembly, object.whole);
    const TopoDS_Shape all = objects.size() > 1 ? TopoDS_Shape(assembly) : objects.front().whole;
    Interface_Static::SetIVal("write.surfacecurve.mode", needs_flat_curves(all) ? 1 : 0);
    STEPControl_Writer writer;
    // Without a graph of the whole model afterwards: nobody asks for it.
    if (writer.Transfer(all, STEPControl_AsIs, false) != IFSelect_RetDone) return tl::unexpected(not_written(title));
    const WrittenShapes shapes(writer);
    if (objects.size() > 1) shapes.name(all, title);
    STEPConstruct_Styles styles(writer.WS());
    for (const WrittenObject& object : objects) {
        if (object.solids.size() > 1) shapes.name(object.whole, object.name);
        for (const TopoDS_Shape& one : object.solids) {
            const auto in = shapes.name(one, object.name);
            const auto solid = shapes.solid(one);
            if (in.IsNull() || solid.IsNull()) return tl::unexpected(not_written(object.name));
            paint(styles, writer.WS(), solid, in, object.colour);
        }
    }
    const Handle(StepData_StepModel) model = Handle(StepData_StepModel)::DownCast(writer.WS()->Model());
    // What stands in an assembly is shown by the name of its use in some programs.
    for (int i = 1; i <= model->NbEntities(); ++i)
        if (const auto use = Handle(StepRepr_NextAssemblyUsageOccurrence)::DownCast(model->Value(i)); !use.IsNull())
            use->SetName(use->RelatedProductDefinition()->Formation()->OfProduct()->Name());
    APIHeaderSection_MakeHeader header(model);
    header.SetName(line(title));
    header.SetDescriptionValue(1, line(title));
    header.SetAuthorValue(1, line(""));
    header.SetOrganizationValue(1, line(""));
    header.SetAuthorisation(line(""));
    header.SetOriginatingSystem(line("Loose Peg"));
    header.SetPreprocessorVersion(line("Loose Peg"));
    StepData_StepWriter file(model);
    file.SendModel(Handle(StepData_Protocol)::DownCast(writer.WS()->Protocol()));
    std::ostringstream bytes;
    if (!file.Print(bytes)) return tl::unexpected(not_written(title));
    KernelAnswer answer;
    TopoDS_Compound none;
    BRep_Builder().MakeCompound(none);
    answer.shape = none;
    answer.texts.push_back(bytes.str());
    return answer;
}

/// Names and colours of the solids in a file that was transferred, by the shape they became wherever it stands.
class Labels {
  public:
    explicit Labels(const STEPControl_Reader& reader) {
        const Handle(XSControl_WorkSession) session = reader.WS();
        const Handle(Interface_InterfaceModel) model = session->Model();
        const Handle(Transfer_TransientProcess) process = session->TransferReader()->TransientProcess();
        find_products(model);
        for (int i = 1; i <= model->NbEntities(); ++i) {
            const auto item = Handle(StepShape_SolidModel)::DownCast(model->Value(i));
            if (item.IsNull()) continue;
            const TopoDS_Shape shape = TransferBRep::ShapeResult(process, item);
            if (shape.IsNull()) continue;
            std::string name = text_of(item->Name());
            if (name.empty() || name == "NONE") name = product_of(item);
            for (TopExp_Explorer solid(shape, TopAbs_SOLID); solid.More(); solid.Next())
                names_[solid.Current().TShape().get()] = name;
        }
        STEPConstruct_Styles styles(session);
        if (!styles.LoadStyles()) return;
        for (int i = 1; i <= styles.NbStyles(); ++i) {
            Handle(StepVisual_Colour) surface, border, curve, rendered;
            double transparency = 0;
            bool component = false;
            const Handle(StepVisual_StyledItem) style = styles.Style(i);
            if (style.IsNull() || style->Item().IsNull()) continue;
            if (!styles.GetColors(style, surface, border, curve, rendered, transparency, component)) continue;
            Quantity_Color rgb;
            if (surface.IsNull() || !STEPConstruct_Styles::DecodeColor(surface, rgb)) continue;
            double r = 0, g = 0, b = 0;
            rgb.Values(r, g, b, Quantity_TOC_sRGB);
            const TopoDS_Shape shape = TransferBRep::ShapeResult(process, style->Item());
            if (shape.IsNull()) continue;
            auto byte = [](double v) { return std::lround(std::clamp(v, 0.0, 1.0) * 255); };
            const double colour = double(byte(r) << 16 | byte(g) << 8 | byte(b));
            for (TopExp_Explorer solid(shape, TopAbs_SOLID); solid.More(); solid.Next())
                colours_[solid.Current().TShape().get()] = colour;
        }
    }
    std::string name(const TopoDS_Shape& solid) const {
        auto found = names_.find(solid.TShape().get());
        return found == names_.end() ? std::string() : found->second;
    }
    double colour(const TopoDS_Shape& solid) const {
        auto found = colours_.find(solid.TShape().get());
        return found == colours_.end() ? -1 : found->second;
    }

  private:
    /// The product's name for each representation, also across those that stand for the same thing.
    void find_products(const Handle(Interface_InterfaceModel) & model) {
        std::map<const void*, std::string> of_representation;
        std::vector<std::pair<Handle(StepRepr_Representation), Handle(StepRepr_Representation)>> same;
        std::vector<Handle(StepRepr_Representation)> all;
        for (int i = 1; i <= model->NbEntities(); ++i) {
            const Handle(Standard_Transient) entity = model->Value(i);
            if (const auto shape = Handle(StepShape_ShapeDefinitionRepresentation)::DownCast(entity); !shape.IsNull()) {
                const auto its =
                    Handle(StepRepr_ProductDefinitionShape)::DownCast(shape->Definition().PropertyDefinition());
                if (its.IsNull()) continue;
                const Handle(StepBasic_ProductDefinition) product = its->Definition().ProductDefinition();
                if (product.IsNull() || product->Formation().IsNull() || product->Formation()->OfProduct().IsNull())
                    continue;
                of_representation[shape->UsedRepresentation().get()] =
                    text_of(product->Formation()->OfProduct()->Name());
            } else if (entity->DynamicType() == STANDARD_TYPE(StepRepr_ShapeRepresentationRelationship)) {
                const auto pair = Handle(StepRepr_ShapeRepresentationRelationship)::DownCast(entity);
                same.emplace_back(pair->Rep1(), pair->Rep2());
            } else if (const auto one = Handle(StepRepr_Representation)::DownCast(entity); !one.IsNull()) {
                all.push_back(one);
            }
        }
        for (const auto& [a, b] : same)
            for (const auto& [from, to] : {std::pair(a, b), std::pair(b, a)})
                if (auto named = of_representation.find(from.get()); named != of_representation.end())
                    of_representation.emplace(to.get(), named->second);
        for (const auto& representation : all) {
            auto named = of_representation.find(representation.get());
            if (named == of_representation.end() || representation->Items().IsNull()) continue;
            for (int k = 1; k <= representation->NbItems(); ++k)
                products_[representation->ItemsValue(k).get()] = named->second;
        }
    }
    std::string product_of(const Handle(StepShape_SolidModel) & item) const {
        auto found = products_.find(item.get());
        return found == products_.end() ? std::string() : found->second;
    }

    std::map<const void*, std::string> products_, names_;
    std::map<const void*, double> colours_;
};

/// Solids that another share of the file has: they stand where they would, with nothing in them.
std::set<const void*> stand_ins(const STEPControl_Reader& reader) {
    std::set<const void*> empty;
    const Handle(XSControl_WorkSession) session = reader.WS();
    const Handle(Interface_InterfaceModel) model = session->Model();
    const Handle(XSControl_TransferReader) transfers = session->TransferReader();
    if (transfers->TransientProcess().IsNull()) transfers->BeginTransfer();
    for (int i = 1; i <= model->NbEntities(); ++i) {
        const auto solid = Handle(StepShape_ManifoldSolidBrep)::DownCast(model->Value(i));
        if (solid.IsNull() || !solid->Outer().IsNull()) continue;
        TopoDS_Solid nothing;
        BRep_Builder().MakeSolid(nothing);
        empty.insert(nothing.TShape().get());
        transfers->TransientProcess()->Bind(solid, new TransferBRep_ShapeBinder(nothing));
    }
    return empty;
}

struct SolidsOfFile {
    std::vector<TopoDS_Shape> solids, in_file;
    std::vector<int32_t> places;
    int32_t of = 0; ///< with those of other shares
};

SolidsOfFile solids_of_file(const TopoDS_Shape& all, const std::set<const void*>& elsewhere) {
    SolidsOfFile found;
    each_solid(all, [&](const TopoDS_Shape& solid, const TopoDS_Shape& in_file) {
        const int32_t place = found.of++;
        if (elsewhere.count(solid.TShape().get())) return;
        found.solids.push_back(solid);
        found.in_file.push_back(in_file);
        found.places.push_back(place);
    });
    return found;
}

/// Makes a session take the check of every entity for done: it makes one whenever a model is set, a twentieth of all
/// the time, and nobody asks what it found. What became of the solids is checked (made_sound).
void without_check_of_entities(const Handle(XSControl_WorkSession) & session,
                               const Handle(StepData_Protocol) & protocol) {
    const Handle(StepData_StepModel) little = new StepData_StepModel;
    little->SetProtocol(protocol);
    little->AddEntity(new StepRepr_RepresentationItem);
    session->SetModel(little);
    session->ComputeGraph(true); // and with it the check, of one entity
}

/// The model is from the text's instances; what they cannot be told apart in is the library's to read.
bool load(STEPControl_Reader& reader, const std::string& bytes, const StepText* step, size_t share, size_t of) {
    const Handle(XSControl_WorkSession) session = reader.WS();
    if (step) {
        const auto protocol = Handle(StepData_Protocol)::DownCast(session->Protocol());
        const Handle(StepData_StepModel) model = step_model(*step, step_share(*step, share, of), protocol);
        if (!model.IsNull()) {
            without_check_of_entities(session, protocol);
            session->SetModel(model);
            session->InitTransferReader(4); // as reading does
            return true;
        }
    }
    std::istringstream stream(bytes);
    return of == 1 && reader.ReadStream("file", stream) == IFSelect_RetDone;
}

Expected<KernelAnswer> read(const KernelCall& call) {
    be_quiet();
    if (call.texts.size() != 1) return problem(ProblemCode::Missing, "There is no file.", "");
    const bool shared = call.picks.size() == 2 && call.picks[0] > 1;
    KernelAnswer answer;
    BRep_Builder builder;
    TopoDS_Compound all;
    builder.MakeCompound(all);
    answer.shape = all;
    answer.kept = {0};
    STEPControl_Controller::Init();
    Interface_Static::SetCVal("xstep.cascade.unit", "MM");
    const auto kept = std::make_shared<STEPControl_Reader>();
    STEPControl_Reader& reader = *kept;
    answer.remains = kept;
    StepText step;
    const bool told_apart = scan_step_text(call.texts[0], step);
    if (!load(reader, call.texts[0], told_apart ? &step : nullptr, shared ? size_t(call.picks[1]) : 0,
              shared ? size_t(call.picks[0]) : 1)) {
        if (shared) return answer;
        return problem(ProblemCode::File, "It is no STEP file that can be read: it is cut off or damaged.",
                       "Export it again.");
    }
    read_without_healing();
    const std::set<const void*> elsewhere = shared ? stand_ins(reader) : std::set<const void*>();
    reader.TransferRoots();
    const Labels labels(reader);
    SolidsOfFile found = solids_of_file(reader.OneShape(), elsewhere);
    if (found.of == 0 && !shared) found = solids_of_file(healed(reader.OneShape()), {});
    found.solids = made_sound(found.solids);
    answer.kept.clear();
    for (size_t i = 0; i < found.solids.size(); ++i)
        // What was healed can have come apart, or be none after all.
        each_solid(found.solids[i], [&](const TopoDS_Shape& solid, const TopoDS_Shape&) {
            builder.Add(all, solid);
            answer.texts.push_back(labels.name(found.in_file[i]));
            answer.numbers.push_back(labels.colour(found.in_file[i]));
            answer.kept.push_back(found.places[i]);
        });
    answer.kept.push_back(found.of);
    if (answer.texts.empty() && !shared)
        return problem(ProblemCode::Geometry, "It holds no solid: only surfaces, curves or nothing at all.",
                       "Export solids from where it was drawn.");
    return answer;
}

} // namespace

Expected<KernelAnswer> write_step(const KernelCall& call) {
    return guard_kernel("a STEP file", [&] { return written(call); });
}

Expected<KernelAnswer> read_step(const KernelCall& call) {
    return guard_kernel("a STEP file", [&] { return read(call); });
}

} // namespace lp
