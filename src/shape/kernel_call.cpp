#include "shape/kernel_call.h"
#include "shape/exact_shape.h"
#include "shape/kernel_ops.h"
#include <BRepBuilderAPI_MakeSolid.hxx>
#include <BRepGProp.hxx>
#include <BRep_Builder.hxx>
#include <BinTools.hxx>
#include <GProp_GProps.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopoDS_Shell.hxx>
#include <TopoDS_Solid.hxx>
#include <cstring>
#include <sstream>

namespace lp {

OriginTable::OriginTable(const KernelCall& call, const TopoDS_Shape& result) {
    for (const TopoDS_Shape& shape : call.shapes) {
        TopExp::MapShapes(shape, TopAbs_FACE, faces_.emplace_back());
        TopExp::MapShapes(shape, TopAbs_EDGE, edges_.emplace_back());
        TopExp::MapShapes(shape, TopAbs_VERTEX, vertices_.emplace_back());
    }
    reset(result);
}

void OriginTable::reset(const TopoDS_Shape& result) {
    result_.Clear();
    TopExp::MapShapes(result, TopAbs_FACE, result_);
    origins_.assign(size_t(result_.Extent()), {});
}

void OriginTable::add(const TopoDS_Shape& face, const ElementOrigin& origin) {
    int index = result_.FindIndex(face);
    if (index == 0) return;
    auto& list = origins_[size_t(index - 1)];
    for (const ElementOrigin& there : list)
        if (there.operand == origin.operand && there.kind == origin.kind && there.index == origin.index) return;
    list.push_back(origin);
}

bool OriginTable::has_faces(const std::vector<int32_t>& picks) const {
    for (int32_t pick : picks)
        if (pick < 0 || pick >= faces(0).Extent()) return false;
    return true;
}

tl::unexpected<Problem> refused(const std::string& what, const char* advice) {
    return problem(ProblemCode::Geometry, "The geometry kernel could not " + what + ".", advice);
}

TopoDS_Shape as_solid(const TopoDS_Shape& shape) {
    if (TopExp_Explorer(shape, TopAbs_SOLID).More()) return shape;
    TopExp_Explorer shell(shape, TopAbs_SHELL);
    if (!shell.More()) return shape;
    TopoDS_Solid solid = BRepBuilderAPI_MakeSolid(TopoDS::Shell(shell.Current())).Solid();
    GProp_GProps volume;
    BRepGProp::VolumeProperties(solid, volume);
    if (volume.Mass() < 0) solid.Reverse();
    return solid;
}

KernelAnswer OriginTable::answer(const TopoDS_Shape& shape) {
    KernelAnswer answer{.shape = shape, .origins = std::move(origins_), .kept = {}};
    for (int i = 1; i <= result_.Extent(); ++i) answer.kept.push_back(faces_[0].FindIndex(result_(i)) - 1);
    return answer;
}

Expected<KernelAnswer> perform(const KernelCall& call) {
    static const std::pair<const char*, Expected<KernelAnswer> (*)(const KernelCall&)> kinds[] = {
        {"join", combine_call},   {"cut", combine_call},     {"common", combine_call}, {"part", part_call},
        {"fillet", fillet_call},  {"chamfer", chamfer_call}, {"shell", shell_call},    {"draft", draft_call},
        {"push", push_call},      {"remove", remove_call},   {"grow", grow_call},      {"inset", inset_call},
        {"thicken", thicken_call}};
    if (call.shapes.empty())
        return problem(ProblemCode::Geometry, "There is no body to work on.", "Put a solid first.");
    for (const auto& [name, run] : kinds)
        if (call.what == name) return guard_kernel(name, [&, run = run] { return run(call); });
    return problem(ProblemCode::Geometry, "The geometry kernel knows no \"" + call.what + "\".", "Update the program.");
}

namespace {

class Writer {
  public:
    template <class T> void put(const T& value) {
        static_assert(std::is_trivially_copyable_v<T>);
        bytes.append(reinterpret_cast<const char*>(&value), sizeof value);
    }
    void put(const std::string& text) {
        put(uint64_t(text.size()));
        bytes += text;
    }
    template <class T> void put(const std::vector<T>& list) {
        put(uint64_t(list.size()));
        for (const T& item : list) put(item);
    }
    void put(const TopoDS_Shape& shape) {
        std::ostringstream stream;
        // Without triangles: they are half of it, and what is kept of them is known on this side.
        BinTools::Write(shape, stream, false, false, BinTools_FormatVersion_CURRENT);
        put(stream.str());
    }
    std::string bytes;
};

class Reader {
  public:
    explicit Reader(const std::string& bytes) : bytes_(bytes) {}
    template <class T> bool get(T& value) {
        if (bytes_.size() - at_ < sizeof value) return false;
        std::memcpy(&value, bytes_.data() + at_, sizeof value);
        at_ += sizeof value;
        return true;
    }
    bool get(std::string& text) {
        uint64_t size = 0;
        if (!get(size) || size > bytes_.size() - at_) return false;
        text = bytes_.substr(at_, size);
        at_ += size;
        return true;
    }
    template <class T> bool get(std::vector<T>& list) {
        uint64_t size = 0;
        if (!get(size) || size > bytes_.size() - at_) return false; // every item takes a byte at least
        list.resize(size);
        for (T& item : list)
            if (!get(item)) return false;
        return true;
    }
    bool get(TopoDS_Shape& shape) {
        std::string bytes;
        if (!get(bytes)) return false;
        std::istringstream stream(bytes);
        BinTools::Read(shape, stream);
        return true;
    }

  private:
    const std::string& bytes_;
    size_t at_ = 0;
};

tl::unexpected<Problem> cut_off() {
    return problem(ProblemCode::Geometry, "What came from the geometry kernel is cut off.", "Try again.");
}

} // namespace

std::string to_bytes(const KernelCall& call) {
    Writer w;
    w.put(call.what);
    // One compound keeps the order, and what the operands share.
    TopoDS_Compound all;
    BRep_Builder builder;
    builder.MakeCompound(all);
    for (const TopoDS_Shape& shape : call.shapes) builder.Add(all, shape);
    w.put(static_cast<const TopoDS_Shape&>(all));
    w.put(call.picks);
    w.put(call.numbers);
    w.put(call.texts);
    return std::move(w.bytes);
}

Expected<KernelCall> call_from_bytes(const std::string& bytes) {
    Reader r(bytes);
    KernelCall call;
    TopoDS_Shape all;
    if (!r.get(call.what) || !r.get(all) || !r.get(call.picks) || !r.get(call.numbers) || !r.get(call.texts))
        return cut_off();
    for (TopoDS_Iterator it(all); it.More(); it.Next()) call.shapes.push_back(it.Value());
    return call;
}

std::string to_bytes(const Expected<KernelAnswer>& answer) {
    Writer w;
    w.put(uint8_t(answer.has_value()));
    if (answer) {
        w.put(answer->shape);
        w.put(answer->origins);
        w.put(answer->kept);
        w.put(answer->texts);
        w.put(answer->numbers);
    } else {
        w.put(answer.error().sentence);
        w.put(answer.error().advice);
    }
    return std::move(w.bytes);
}

Expected<KernelAnswer> answer_from_bytes(const std::string& bytes) {
    Reader r(bytes);
    uint8_t good = 0;
    if (!r.get(good)) return cut_off();
    if (!good) {
        std::string sentence, advice;
        if (!r.get(sentence) || !r.get(advice)) return cut_off();
        return problem(ProblemCode::Geometry, sentence, advice);
    }
    KernelAnswer answer;
    if (!r.get(answer.shape) || !r.get(answer.origins) || !r.get(answer.kept) || !r.get(answer.texts) ||
        !r.get(answer.numbers))
        return cut_off();
    return answer;
}

} // namespace lp
