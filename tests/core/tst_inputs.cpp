// Inputs of groups and of materials: wired, typed or given a picture, and required or not.
#include <QTemporaryDir>
#include <QtTest>

#include "core/graph/disc.h"
#include "core/graph/groups.h"
#include "core/graph/inputs.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/io/image.h"
#include "hem_at.h"

using namespace loom;
using namespace loom::test;

class TestInputs : public QObject {
  Q_OBJECT

  // A group around a Blend, with an input on its upper peg: blend's mask stays at its own value.
  static Material with_group(const std::map<std::string, ParamValue>& params, const std::string& kind = "scalar") {
    Material m = edit::empty_material();
    m = edit::add_node(std::move(m), catalogue(), "tone", "relief", 0, 1);
    Material folded = *edit::fold(m, catalogue(), {"tone"}, "Bare");
    Material view = edit::add_group_input(edit::inside_of(folded, "bare"), "Height of what lies below");
    const std::string in = view.nodes.back()->id;
    for (const auto& [id, value] : params) view = edit::set_param(std::move(view), in, id, value);
    view = edit::set_param(std::move(view), in, "kind", kind);
    view = edit::connect(std::move(view), {in, "value", "tone", "value"});
    return edit::with_inside(folded, catalogue(), "bare", view);
  }
  static constexpr const char* kPeg = "height_of_what_lies_below";
  static std::map<std::string, ParamValue> typed(double number) {
    return {{"stands_in", std::string("typed")}, {"number", number}};
  }
  static const char* told(const std::vector<Error>& faults) {
    static std::string text;
    text = faults.empty() ? std::string() : faults.front().text();
    return text.c_str();
  }

 private Q_SLOTS:
  void aTypedInputIsOneControl() {
    Material m = with_group(typed(0.25));
    QVERIFY2(validate(m, catalogue()).empty(), told(validate(m, catalogue())));
    const auto type = type_of(m, catalogue(), *m.node("bare"));
    const Parameter* control = type->parameter(kPeg);
    QVERIFY(control && type->input(kPeg));
    QCOMPARE(control->label, std::string("Height of what lies below"));
    QCOMPARE(std::get<double>(control->initial), 0.25);
    QCOMPARE(middle_of(woven_at(m, "bare.value", 64)), 0.25f);
    m = edit::set_param(std::move(m), "bare", kPeg, 0.75);
    QCOMPARE(middle_of(woven_at(m, "bare.value", 64)), 0.75f);
    const auto acts = [&](const Material& now) {
      return parameter_acts(*type, *control, now.node("bare")->params,
                            [&](std::string_view peg) { return now.into("bare", peg) != nullptr; });
    };
    QVERIFY(acts(m));
    m = edit::add_node(std::move(m), catalogue(), "value", "relief", 1, 0);
    m = edit::connect(std::move(m), {"value", "value", "bare", kPeg});
    QVERIFY(!acts(m));
    QCOMPARE(middle_of(woven_at(m, "bare.value", 64)), 0.5f);
  }

  void itFollowsAValueOutside() {
    Material m = with_group(typed(0.25));
    m.values.push_back({"wear", 0.6, {}});
    m = edit::set_param(std::move(m), "bare", kPeg, Follow{"wear"});
    QVERIFY2(validate(m, catalogue()).empty(), told(validate(m, catalogue())));
    QCOMPARE(middle_of(woven_at(m, "bare.value", 64)), 0.6f);
    m = edit::set_param(std::move(m), "bare", kPeg, Formula{"wear / 2", {}});
    QCOMPARE(middle_of(woven_at(m, "bare.value", 64)), 0.3f);
  }

  void whatStandsInsideStays() {
    const Material m = with_group({});
    QVERIFY(!type_of(m, catalogue(), *m.node("bare"))->parameter(kPeg));
    const double own = std::get<double>(catalogue().find("tone")->parameter("value")->initial);
    QCOMPARE(middle_of(woven_at(m, "bare.value", 64)), static_cast<float>(own));
  }

  void aPictureStandsIn() {
    const QTemporaryDir folder;
    const std::string path = folder.path().toStdString();
    const auto png = encode_picture(4, 4, std::vector<std::uint8_t>(48, 51));
    QVERIFY(png.ok() && write_file(path + "/grey.png", *png).ok());
    Material m = with_group({{"stands_in", std::string("picture")}, {"file", std::string("grey.png")}});
    auto root = std::make_shared<FileRoot>();
    root->folder = path;
    m.files = root;
    // Numbers are read as they are written: 51 of 255, not turned into linear light.
    QVERIFY(std::abs(middle_of(woven_at(m, "bare.value", 64)) - 0.2f) < 1e-6f);
    QCOMPARE(edit::file_names(m, catalogue()), std::vector<std::string>{"grey.png"});
    m = edit::set_param(std::move(m), "bare", kPeg, std::string("other.png"));
    QCOMPARE(edit::file_names(m, catalogue()), (std::vector<std::string>{"grey.png", "other.png"}));
    std::string why;
    QVERIFY(!woven_at(m, "bare.value", 64, &why).strand[0]);
    QVERIFY2(why.find("other.png") != std::string::npos, why.c_str());
    const Material moved = edit::rename_files(m, catalogue(), [](const std::string& name) { return "art/" + name; });
    QCOMPARE(edit::file_names(moved, catalogue()), (std::vector<std::string>{"art/grey.png", "art/other.png"}));
  }

  void whatIsRequiredAndMissingIsSaid() {
    auto params = typed(0.25);
    params["required"] = 1.0;
    Material m = with_group(params);
    QVERIFY2(validate(m, catalogue()).empty(), "the rest is woven on");
    std::string why;
    QVERIFY(!woven_at(m, "bare.value", 64, &why).strand[0]);
    QVERIFY2(why.find("required") != std::string::npos && why.find(kPeg) != std::string::npos, why.c_str());
    m = edit::add_node(std::move(m), catalogue(), "value", "relief", 1, 0);
    m = edit::connect(std::move(m), {"value", "value", "bare", kPeg});
    QCOMPARE(middle_of(woven_at(m, "bare.value", 64)), 0.5f);
  }

  void aGroupPassesItsOwnOn() {
    // An outer group leaves it to what lies inside, where the inner one has a typed value.
    Material m = with_group(typed(0.25));
    m = *edit::fold(m, catalogue(), {"bare"}, "Outer");
    Material view = edit::add_group_input(edit::inside_of(m, "outer"), "Below");
    const std::string in = view.nodes.back()->id;
    view = edit::connect(std::move(view), {in, "value", "bare", kPeg});
    m = edit::with_inside(m, catalogue(), "outer", view);
    QCOMPARE(middle_of(woven_at(m, "outer.value", 64)), 0.25f);
    view = edit::inside_of(m, "outer");
    view = edit::set_param(std::move(view), in, "stands_in", std::string("typed"));
    view = edit::set_param(std::move(view), in, "number", 0.875);
    m = edit::with_inside(m, catalogue(), "outer", view);
    QCOMPARE(middle_of(woven_at(m, "outer.value", 64)), 0.875f);
  }

  void viewsAndFilesKeepThem() {
    auto params = typed(0.25);
    params["required"] = 1.0, params["help"] = std::string("What the dust lies on."), params["to"] = 4.0;
    const Material m = with_group(params);
    QCOMPARE(write_material(edit::with_inside(m, catalogue(), "bare", edit::inside_of(m, "bare"))), write_material(m));
    const Material back = *read_material(write_material(m));
    QCOMPARE(write_material(back), write_material(m));
    const Parameter control = *control_of(back.group("bare")->inputs.front());
    QCOMPARE(control.help, std::string("What the dust lies on."));
    QCOMPARE(control.useful.most, 4.0);
    QVERIFY(is_required(back.group("bare")->inputs.front()));
  }

  void takenApartItStaysWhatItWas() {
    Material m = edit::set_param(with_group(typed(0.25)), "bare", kPeg, 0.75);
    m = edit::set_hem(std::move(m), "roughness", "bare.value");
    const Material apart = edit::take_apart(m, "bare");
    QVERIFY2(validate(apart, catalogue()).empty(), told(validate(apart, catalogue())));
    QVERIFY(apart.groups.empty());
    QCOMPARE(middle_of(woven_at(apart, apart.hem.at("roughness"), 64)), 0.75f);
    const Material inside = edit::take_apart(with_group({}), "bare");
    QCOMPARE(inside.nodes.size(), std::size_t{1});
  }

  void wrongOnesAreRefused() {
    const auto faults = [](const Material& m) { return validate(m, catalogue()); };
    QVERIFY(!faults(with_group({{"stands_in", std::string("guess")}})).empty());
    QVERIFY(!faults(with_group({{"colour", 1.0}})).empty());
    Material m = with_group(typed(0.5));
    QVERIFY(!faults(edit::set_param(m, "bare", kPeg, std::string("much"))).empty());
    QVERIFY2(faults(edit::set_param(m, "bare", kPeg, 1e9)).empty(), "a number beyond is brought back");
    auto g = std::make_shared<Group>(*m.groups.front());
    g->values.push_back({kPeg, 1.0, Dial{"Wear"}});
    m.groups.front() = g;
    QVERIFY2(QString(told(faults(m))).contains("name of a dial"), told(faults(m)));
    QVERIFY(!read_material(R"({"format": 2, "groups": [{"id": "g", "inputs": [{"id": "a", "params": 3}]}]})").ok());
  }

  void aMaterialHasThemToo() {
    Material m = edit::add_node(edit::empty_material(), catalogue(), kComesIn, "relief", 0, 0);
    m = edit::add_node(std::move(m), catalogue(), "tone", "relief", 0, 1);
    m = edit::connect(std::move(m), {"input", "value", "tone", "value"});
    QVERIFY2(validate(m, catalogue()).empty(), told(validate(m, catalogue())));
    QCOMPARE(middle_of(woven_at(m, "tone.value", 64)), 0.5f);
    const Material inside = edit::set_param(m, "input", "stands_in", std::string("inside"));
    const double own = std::get<double>(catalogue().find("tone")->parameter("value")->initial);
    QCOMPARE(middle_of(woven_at(inside, "tone.value", 64)), static_cast<float>(own));
    const Material colour = edit::set_param(edit::set_param(m, "input", "kind", std::string("colour")), "input",
                                            "paint", Vector{0.1, 0.2, 0.3});
    QCOMPARE(output_kind(colour, catalogue(), "input", "value"), Kind::colour);
    const Field f = woven_at(colour, "input.value", 64);
    QCOMPARE(f.kind, Kind::colour);
    QCOMPARE(f.strand[2]->at(5, 5), 0.3f);
    QCOMPARE(write_material(*read_material(write_material(m))), write_material(m));
  }

  void aNormalMapGivesDirections() {
    const QTemporaryDir folder;
    const std::string path = folder.path().toStdString();
    std::vector<std::uint8_t> texels;
    for (int i = 0; i < 16; ++i) texels.insert(texels.end(), {204, 128, 229});  // 0.6, 0, 0.8 in 8 bits
    QVERIFY(write_file(path + "/normal.png", *encode_picture(4, 4, texels)).ok());
    Material m = edit::add_node(edit::empty_material(), catalogue(), kComesIn, "relief", 0, 0);
    auto root = std::make_shared<FileRoot>();
    root->folder = path;
    m.files = root;
    for (const auto& [id, word] : {std::pair("kind", "normal"), {"stands_in", "picture"}, {"file", "normal.png"}})
      m = edit::set_param(std::move(m), "input", id, std::string(word));
    const Field f = woven_at(m, "input.value", 64);
    QCOMPARE(f.kind, Kind::normal);
    QVERIFY(std::abs(f.strand[0]->at(3, 3) - 0.6f) < 0.005f && std::abs(f.strand[2]->at(3, 3) - 0.8f) < 0.005f);
  }
};

QTEST_GUILESS_MAIN(TestInputs)
#include "tst_inputs.moc"
