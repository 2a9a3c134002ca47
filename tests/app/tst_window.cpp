// The real main window, driven by real keys and the real mouse.
#include "tests/app/driving.h"

#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QDialog>
#include <QDir>
#include <QDragEnterEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMimeData>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QTextBrowser>
#include <QToolButton>

#include "app/deliver/bolt_dialog.h"
#include "app/deliver/deliver_form.h"
#include "app/deliver/dials_panel.h"
#include "app/deliver/preset_list.h"
#include "app/drape/picture_form.h"
#include "app/tray/slider.h"
#include "core/bolt/package.h"
#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"

using namespace loom;
using namespace loom::app;
using namespace loom::test;

class TestWindow : public QObject {
  Q_OBJECT
  std::unique_ptr<MainWindow> w_;
  QTemporaryDir dir_;
  const QString floor_ = QStringLiteral(LOOM_DEMO "/quay-floor.loom");

  const Material& m() const { return w_->document().material(); }
  Board* board() const { return w_->board(); }
  bool calm() const {
    return settled([this] { return w_->isIdle(); });
  }
  void key(Qt::Key k, Qt::KeyboardModifiers mods = Qt::NoModifier) const { QTest::keyClick(board(), k, mods); }
  // Types into the add line and presses Enter.
  void add(const QString& typed) const {
    board()->setFocus();
    QTest::keyClick(board(), Qt::Key_Slash);
    QLineEdit* line = nullptr;
    for (QLineEdit* l : board()->findChildren<QLineEdit*>())
      if (l->isVisible()) line = l;
    QVERIFY(line);
    QTest::keyClicks(line, typed);
    QTest::keyClick(line, Qt::Key_Return);
    QVERIFY(!line->isVisible());
  }
  void document_edit(const char* node, const char* parameter, double value) const {
    w_->document().edit(QStringLiteral("Set"), edit::set_param(m(), node, parameter, value));
  }
  static QLineEdit* fieldOf(const QWidget* in, const char* name) {
    for (QLineEdit* f : in->findChildren<QLineEdit*>())
      if (f->accessibleName() == QLatin1String(name)) return f;
    return nullptr;
  }
  static void type(const QWidget* in, const char* name, const char* text) {
    QLineEdit* field = fieldOf(in, name);
    QVERIFY2(field, name);
    field->setText(QString::fromUtf8(text));
    Q_EMIT field->editingFinished();
  }
  static void press(const QWidget* in, const char* text) {
    for (QPushButton* b : in->findChildren<QPushButton*>())
      if (b->text() == QLatin1String(text)) return b->click();
    QFAIL(text);
  }
  QPoint at(const std::string& node, const std::string& peg = {}) const {
    const TagPlace* t = board()->view().layout.tag(node);
    if (peg.empty()) return board()->widgetPoint(t->rect.center());
    for (const auto* list : {&t->inputs, &t->outputs})
      for (const PegPlace& p : *list)
        if (p.peg == peg) return board()->widgetPoint(p.at);
    return {};
  }
  void drag(QPoint from, QPoint to) const {
    QTest::mousePress(board(), Qt::LeftButton, {}, from);
    QTest::mouseMove(board(), (from + to) / 2);
    QTest::mouseMove(board(), to);
    QTest::mouseRelease(board(), Qt::LeftButton, {}, to);
  }

 private Q_SLOTS:
  void initTestCase() { prepare(); }
  void init() { w_ = shownWindow(); }
  void cleanup() { closeUnsaved(w_); }

  void aMaterialIsBuiltWithKeysAlone() {
    add(QStringLiteral("masonry"));
    QCOMPARE(m().nodes.size(), std::size_t{1});
    add(QStringLiteral("bevel"));  // lands below, connected to what was selected
    QCOMPARE(m().into("bevel", "mask")->from_node, std::string("masonry"));
    add(QStringLiteral("normal from"));
    QCOMPARE(m().into("normal_from_height", "height")->from_node, std::string("bevel"));
    add(QStringLiteral("0.25"));
    QCOMPARE(std::get<double>(m().node("value")->params.at("value")), 0.25);
    add(QStringLiteral("a*b + 0.2"));
    QCOMPARE(std::get<std::string>(m().node("formula")->params.at("formula")), std::string("a*b + 0.2"));
    // A thread by keyboard: from the bevel into the formula's second peg.
    for (int k = 0; k < 40 && !m().into("formula", "b"); ++k) {
      const std::string before = write_material(m());
      board()->select({"bevel"});
      key(Qt::Key_W, Qt::ShiftModifier);
      for (int i = 0; i < k; ++i) key(Qt::Key_Right);
      key(Qt::Key_Return);
      if (!m().into("formula", "b") && write_material(m()) != before)
        QTest::keyClick(board(), Qt::Key_Z, Qt::ControlModifier);
    }
    QVERIFY(m().into("formula", "b"));
    QCOMPARE(m().into("formula", "b")->from_node, std::string("bevel"));
    QVERIFY(validate(m(), catalogue()).empty());
    // And everything back again.
    const std::string built = write_material(m());
    while (w_->document().canUndo()) QTest::keyClick(board(), Qt::Key_Z, Qt::ControlModifier);
    QVERIFY(m().nodes.empty());
    while (w_->document().canRedo()) QTest::keyClick(board(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    QCOMPARE(write_material(m()), built);
  }
  void aGraphIsReworkedByKeys() {
    add(QStringLiteral("gradient noise"));
    add(QStringLiteral("tone"));
    w_->document().edit(QStringLiteral("Hem"), edit::set_hem(m(), "roughness", "tone.value"));
    // Splice in: I, then the name of a node.
    board()->select({"gradient_noise"});
    const auto type = [&](Qt::Key k, const QString& name) {
      key(k);
      for (QLineEdit* l : board()->findChildren<QLineEdit*>())
        if (l->isVisible()) {
          QTest::keyClicks(l, name);
          QTest::keyClick(l, Qt::Key_Return);
          return;
        }
      QFAIL("no line opened");
    };
    type(Qt::Key_I, QStringLiteral("blur"));
    QCOMPARE(m().into("blur", "source")->from_node, std::string("gradient_noise"));
    QCOMPARE(m().into("tone", "value")->from_node, std::string("blur"));
    // Replace: R.
    board()->select({"blur"});
    type(Qt::Key_R, QStringLiteral("sharpen"));
    QCOMPARE(m().node("blur")->type, std::string("sharpen"));
    // Lift out closes the gap.
    board()->select({"blur"});
    key(Qt::Key_Delete, Qt::ControlModifier);
    QVERIFY(!m().node("blur"));
    QCOMPARE(m().into("tone", "value")->from_node, std::string("gradient_noise"));
    // Blend two, step its mode, swap.
    board()->select({"gradient_noise", "tone"});
    key(Qt::Key_Y);
    QCOMPARE(m().into("blend", "lower")->from_node, std::string("gradient_noise"));
    QCOMPARE(m().hem.at("roughness"), std::string("blend.result"));
    key(Qt::Key_Period);
    QCOMPARE(std::get<std::string>(m().node("blend")->params.at("mode")),
             catalogue().find("blend")->parameter("mode")->options[1]);
    key(Qt::Key_S);
    QCOMPARE(m().into("blend", "lower")->from_node, std::string("tone"));
    // Without a mode it is the first choice of the type that steps, here how octaves add up.
    board()->select({"gradient_noise"});
    const Parameter& sum = *catalogue().find("gradient_noise")->parameter("sum");
    key(Qt::Key_Comma);
    QCOMPARE(std::get<std::string>(m().node("gradient_noise")->params.at("sum")), sum.options.back());
    key(Qt::Key_Period);
    QCOMPARE(std::get<std::string>(m().node("gradient_noise")->params.at("sum")), sum.options.front());
    board()->select({"blend"});
    key(Qt::Key_Up, Qt::ShiftModifier);
    QCOMPARE(board()->selection().size(), std::size_t{3});
    // Parameters from one node to another.
    document_edit("gradient_noise", "scale", 11);
    board()->select({"gradient_noise"});
    key(Qt::Key_C, Qt::ControlModifier | Qt::ShiftModifier);
    add(QStringLiteral("value noise"));
    key(Qt::Key_V, Qt::ControlModifier | Qt::ShiftModifier);
    QCOMPARE(std::get<double>(m().node("value_noise")->params.at("scale")), 11.0);
    QVERIFY(validate(m(), catalogue()).empty());
  }
  void manyThreadsAreCutWithOneStroke() {
    add(QStringLiteral("gradient noise"));
    add(QStringLiteral("tone"));
    add(QStringLiteral("dye"));
    board()->fitAll();
    QCOMPARE(m().threads.size(), std::size_t{2});
    key(Qt::Key_K);
    const QPoint top = at("gradient_noise"), low = at("dye");
    // One stroke, there and back: across the channel below the first tag, then across the one above the last.
    const std::array<QPoint, 4> stroke{QPoint(top.x() - 66, top.y() + 46), QPoint(top.x() + 66, top.y() + 46),
                                       QPoint(low.x() + 66, low.y() - 46), QPoint(low.x() - 66, low.y() - 46)};
    QTest::mousePress(board(), Qt::LeftButton, {}, stroke[0]);
    for (const QPoint& p : stroke) QTest::mouseMove(board(), p);
    QTest::mouseRelease(board(), Qt::LeftButton, {}, stroke[3]);
    QCOMPARE(m().threads.size(), std::size_t{0});
    w_->document().undo();
    QCOMPARE(m().threads.size(), std::size_t{2});
    QVERIFY(board()->cutting());  // until it is ended
    key(Qt::Key_Escape);
    QVERIFY(!board()->cutting());
    // Without it the same drag selects.
    drag(stroke[0], stroke[2]);
    QCOMPARE(m().threads.size(), std::size_t{2});
    // Alt and a stroke cut at once.
    QTest::mousePress(board(), Qt::LeftButton, Qt::AltModifier, stroke[0]);
    for (const QPoint& p : stroke) QTest::mouseMove(board(), p);
    QTest::mouseRelease(board(), Qt::LeftButton, Qt::AltModifier, stroke[3]);
    QCOMPARE(m().threads.size(), std::size_t{0});
    QVERIFY(!board()->cutting());
  }
  void theAddLineFindsByWordsOfTheTrade() {
    add(QStringLiteral("voronoi"));
    QCOMPARE(m().nodes.back()->type, std::string("cellular_noise"));
    add(QStringLiteral("levels"));
    QCOMPARE(m().nodes.back()->type, std::string("tone"));
    board()->setFocus();
    QTest::keyClick(board(), Qt::Key_Slash);
    QTest::keyClick(QApplication::focusWidget() ? QApplication::focusWidget() : board(), Qt::Key_Escape);
    QCOMPARE(m().nodes.size(), std::size_t{2});
  }
  void weavingTogetherConnectsTheSelected() {
    w_->document().reset(edit::add_node(
        edit::add_node(edit::add_node(edit::empty_material(), catalogue(), "gradient_noise", "relief", 0, 0),
                       catalogue(), "cellular_noise", "relief", 1, 0),
        catalogue(), "blend", "relief", 0, 1));
    board()->select({"gradient_noise", "cellular_noise", "blend"});
    board()->setFocus();
    key(Qt::Key_W);
    QCOMPARE(m().threads.size(), std::size_t{2});
    QVERIFY(m().into("blend", "lower") && m().into("blend", "upper"));
  }
  void threadsAreDraggedCutAndRefused() {
    w_->document().reset(edit::add_node(
        edit::add_node(edit::add_node(edit::empty_material(), catalogue(), "gradient_noise", "relief", 0, 0),
                       catalogue(), "blur", "relief", 0, 1),
        catalogue(), "region_values", "relief", 0, 2));
    board()->select({"gradient_noise"});
    drag(at("gradient_noise", "value"), at("blur", "source"));
    QVERIFY(m().into("blur", "source"));
    drag(at("gradient_noise", "value"), at("region_values", "regions"));
    QVERIFY(!m().into("region_values", "regions"));  // a scalar is no region
    const QRect height = board()->view().slotRect("height");
    drag(at("blur", "result"), height.center());
    QCOMPARE(m().hem.at("height"), std::string("blur.result"));
    QVERIFY(calm());
    QVERIFY(w_->lastSeen() && w_->lastSeen()->hem.count("height"));
    // Pulled out of its peg and dropped on nothing near it: gone.
    const QPoint peg = at("blur", "source");
    drag(peg, peg + QPoint(-70, 150));
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Escape);  // dropped on the empty board, it offers what fits
    QVERIFY(!m().into("blur", "source"));
  }
  void nodesMoveBetweenRowsAndLanes() {
    w_->document().reset(edit::add_node(edit::empty_material(), catalogue(), "gradient_noise", "relief", 0, 0));
    board()->select({"gradient_noise"});
    board()->setFocus();
    key(Qt::Key_Down, Qt::ControlModifier);
    QCOMPARE(m().node("gradient_noise")->row, 1);
    key(Qt::Key_Right, Qt::ControlModifier);
    key(Qt::Key_Right, Qt::ControlModifier);
    QVERIFY(m().node("gradient_noise")->lane != "relief");
    const QRectF cell = board()->view().layout.cellRect({"finish", 0, 2});
    drag(at("gradient_noise"), board()->widgetPoint(cell.center()));
    QCOMPARE(m().node("gradient_noise")->lane, std::string("finish"));
    QCOMPARE(m().node("gradient_noise")->row, 2);
  }
  void copiesPastesDuplicatesBypassesDeletes() {
    QVERIFY(w_->openPath(floor_));
    const std::size_t n = m().nodes.size();
    board()->select({"worn", "bare"});
    board()->setFocus();
    key(Qt::Key_C, Qt::ControlModifier);
    QVERIFY(QApplication::clipboard()->text().contains(QStringLiteral("\"worn\"")));
    key(Qt::Key_V, Qt::ControlModifier);
    QCOMPARE(m().nodes.size(), n + 2);
    key(Qt::Key_D, Qt::ControlModifier);
    QCOMPARE(m().nodes.size(), n + 4);
    key(Qt::Key_Delete);
    QCOMPARE(m().nodes.size(), n + 2);
    board()->select({"rim"});
    key(Qt::Key_B);
    QVERIFY(m().node("rim")->bypass);
    QVERIFY(validate(m(), catalogue()).empty());
    QVERIFY(calm());
  }
  void theTraySetsParametersAndDials() {
    QVERIFY(w_->openPath(floor_));
    board()->select({"scuffs"});
    ParameterRow* gain = w_->tray()->row("gain");
    QVERIFY(gain);
    auto* field = gain->findChild<QLineEdit*>();
    field->setFocus();
    field->selectAll();
    QTest::keyClicks(field, QStringLiteral("1/8"));
    QTest::keyClick(field, Qt::Key_Return);
    QCOMPARE(std::get<double>(m().node("scuffs")->params.at("gain")), 0.125);
    // A drag over the slider is one step, and every place of it is seen.
    auto* slider = gain->findChild<Slider*>();
    const QString before = w_->document().undoName();
    QTest::mousePress(slider, Qt::LeftButton, {}, QPoint(10, 7));
    for (int x = 10; x < 60; x += 5) QTest::mouseMove(slider, QPoint(x, 7));
    QTest::mouseRelease(slider, Qt::LeftButton, {}, QPoint(60, 7));
    const double dragged = std::get<double>(m().node("scuffs")->params.at("gain"));
    QVERIFY(dragged != 0.125);
    w_->document().undo();
    QCOMPARE(std::get<double>(m().node("scuffs")->params.at("gain")), 0.125);
    // Overrun by typing: beyond the slider, within the limits.
    w_->tray()->row("scale")->focusValue();
    auto* scale = w_->tray()->row("scale")->findChild<QLineEdit*>();
    QTest::keyClicks(scale, QStringLiteral("200"));
    QTest::keyClick(scale, Qt::Key_Return);
    QCOMPARE(std::get<double>(m().node("scuffs")->params.at("scale")), 200.0);
    // D makes the parameter in focus a dial; the tray then turns the dial.
    const std::size_t values = m().values.size();
    Q_EMIT w_->tray()->dialWanted("scuffs", "gain");
    QCOMPARE(m().values.size(), values + 1);
    Q_EMIT w_->tray()->paramWanted("scuffs", "gain", 0.9);
    QCOMPARE(std::get<double>(m().values.back().value), 0.9);
    QVERIFY(std::holds_alternative<Follow>(m().node("scuffs")->params.at("gain")));
  }
  void parametersWithoutEffectAreDimmedWithTheReason() {
    QVERIFY(w_->openPath(floor_));
    board()->select({"laid"});
    ParameterRow* stagger = w_->tray()->row("stagger");
    QVERIFY(stagger && stagger->toolTip().contains(QStringLiteral("running")));
    QVERIFY(!stagger->findChild<Slider*>()->isEnabled());
    QVERIFY(w_->tray()->row("bond")->findChild<QWidget*>()->isEnabled());
  }
  void aBrokenFormulaIsToldAndTheLastPictureStays() {
    QVERIFY(w_->openPath(floor_));
    QVERIFY(calm());
    board()->select({"worn"});
    QVERIFY(calm());
    const QImage before = w_->drape()->image();
    Q_EMIT w_->tray()->paramWanted("worn", "formula", std::string("a + nonsense"));
    QVERIFY(calm());
    QVERIFY(w_->tray()->row("formula")->toolTip().contains(QStringLiteral("nonsense")));
    QVERIFY(w_->status().contains(QStringLiteral("at fault")));
    QCOMPARE(w_->drape()->image().size(), before.size());
    QVERIFY(w_->drape()->image() == before);
  }
  void theLoupeFollowsLocksAndTellsValues() {
    QVERIFY(w_->openPath(floor_));
    board()->select({"rim"});
    QVERIFY(calm());
    QCOMPARE(w_->lastSeen()->loupe_output, std::string("rim.height"));
    board()->setFocus();
    key(Qt::Key_Return);
    QVERIFY(calm());
    QCOMPARE(w_->lastSeen()->loupe_output, std::string("rim.normal"));
    key(Qt::Key_L);
    board()->select({"laid"});
    QVERIFY(calm());
    QCOMPARE(w_->lastSeen()->loupe_output, std::string("rim.normal"));
    board()->setFocus();
    key(Qt::Key_L);
    QVERIFY(calm());
    QCOMPARE(w_->lastSeen()->loupe_output, std::string("laid.mask"));
    // The value told is the plane's own, also in the second repeat.
    key(Qt::Key_T);
    QCOMPARE(w_->loupe()->repeats(), 2);
    const QPoint texel = w_->loupe()->texelAt(QPointF(w_->loupe()->width() / 2.0 + 30, 150));
    QVERIFY(texel.x() >= 0 && texel.x() < 1024);
    const float v = w_->lastSeen()->loupe->strand[0]->at(texel.x(), texel.y());
    QCOMPARE(w_->loupe()->valueText(texel), QString::number(static_cast<double>(v), 'f', 4));
    QCOMPARE(w_->loupe()->texelAt(QPointF(-5, -5)), QPoint(-1, -1));
  }
  void theDrapeRefinesAndAnswersTheHand() {
    QVERIFY(w_->openPath(floor_));
    QVERIFY(calm());
    QCOMPARE(w_->drape()->samples(), w_->drape()->view().samples);
    const QImage ball = w_->drape()->image();
    DrapePanel* drape = w_->drape();
    const DrapeView start = drape->view();
    const auto drag = [&](Qt::MouseButton button, Qt::KeyboardModifiers keys) {
      QTest::mousePress(drape, button, keys, QPoint(180, 150));
      QMouseEvent move(QEvent::MouseMove, QPointF(230, 140), drape->mapToGlobal(QPointF(230, 140)), Qt::NoButton,
                       button, keys);
      QApplication::sendEvent(drape, &move);
      QTest::mouseRelease(drape, button, keys, QPoint(230, 140));
    };
    drag(Qt::RightButton, {});
    QVERIFY(drape->view().light_degrees != start.light_degrees && drape->view().light_height > start.light_height);
    QVERIFY(drape->view().camera == start.camera);
    drag(Qt::LeftButton, {});
    QVERIFY(drape->view().camera.azimuth != start.camera.azimuth && drape->view().camera.aside == 0);
    drag(Qt::LeftButton, Qt::ShiftModifier);
    QVERIFY(drape->view().camera.aside > 0 && drape->view().camera.up > 0);
    QTest::mouseDClick(drape, Qt::LeftButton, {}, QPoint(180, 150));
    QVERIFY(drape->view().camera == start.camera);
    drape->setFocus();
    QTest::keyClick(drape, Qt::Key_Plus);
    QTest::keyClick(drape, Qt::Key_Right);
    QTest::keyClick(drape, Qt::Key_Up, Qt::ControlModifier);
    QVERIFY(drape->view().camera.distance < start.camera.distance && drape->view().camera.azimuth == 5);
    QVERIFY(drape->view().light_height > start.light_height);
    QTest::keyClick(drape, Qt::Key_Home);
    QVERIFY(drape->view().camera == start.camera);
    // Each shape keeps the place it is looked at from.
    QTest::keyClick(drape, Qt::Key_Space);
    QCOMPARE(drape->view().shape, ShapeName::pipe);
    QTest::keyClick(drape, Qt::Key_Space, Qt::ShiftModifier);
    QCOMPARE(drape->view().shape, ShapeName::ball);
    QVERIFY(drape->view().camera == start.camera);
    // Without relief, and with it again.
    QVERIFY(calm());
    const QImage relief = drape->image();
    QAction* toggle = nullptr;
    for (QAction* action : drape->viewMenu()->actions())
      if (action->text() == QStringLiteral("Relief")) toggle = action;
    QVERIFY(toggle && toggle->isChecked());
    // Repeats mean nothing while the scale is true.
    QAction *scale = nullptr, *repeats = nullptr;
    for (QAction* action : drape->viewMenu()->actions()) {
      if (action->text() == QStringLiteral("True to scale")) scale = action;
      if (action->text() == QStringLiteral("Repeats")) repeats = action;
    }
    QVERIFY(scale && repeats && repeats->isEnabled());
    scale->trigger();
    QVERIFY(drape->view().true_scale && !repeats->isEnabled());
    scale->trigger();
    QVERIFY(calm() && repeats->isEnabled());
    toggle->trigger();
    QVERIFY(calm() && !drape->view().relief && !toggle->isChecked());
    QVERIFY(drape->image() != relief);
    toggle->trigger();
    QVERIFY(calm());
    QVERIFY(drape->image() == relief);
    w_->drape()->setShape(ShapeName::tile);
    QVERIFY(calm());
    QVERIFY(w_->drape()->image() != ball);
  }
  void theDrapeStandsInAnotherLight() {
    QVERIFY(w_->openPath(floor_));
    QVERIFY(calm());
    DrapePanel* drape = w_->drape();
    const QImage hall = drape->image();
    const float azimuth = drape->view().light_degrees;
    drape->setEnvironment("low_sun");
    QVERIFY(calm());
    QVERIFY(drape->image() != hall && drape->view().light_degrees != azimuth);
    // One's own picture, dropped: red from the left, blue from the right.
    std::vector<float> picture;
    for (int i = 0; i < 64 * 32; ++i)
      for (const float c : {i % 64 < 32 ? 0.9f : 0.0f, 0.0f, i % 64 < 32 ? 0.0f : 0.9f, 1.0f}) picture.push_back(c);
    const QString path = dir_.filePath(QStringLiteral("yard.exr"));
    QVERIFY(write_radiance(path.toStdString(), 64, 32, picture).ok());
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(path)});
    QDragEnterEvent enter(QPoint(50, 50), Qt::CopyAction, &data, Qt::LeftButton, {});
    QApplication::sendEvent(drape, &enter);
    QVERIFY(enter.isAccepted());
    QDropEvent drop(QPointF(50, 50), Qt::CopyAction, &data, Qt::LeftButton, {});
    QApplication::sendEvent(drape, &drop);
    QVERIFY(calm());
    QVERIFY(drape->view().own && drape->view().key == 0);
    const auto at = [&](double share) {
      return drape->image().pixel(static_cast<int>(share * drape->width()), drape->height() / 2);
    };
    // Seen from the front, the picture's left half lies on the right (+x).
    QVERIFY(qBlue(at(0.3)) > qRed(at(0.3)) && qRed(at(0.7)) > qBlue(at(0.7)));
    drape->setFocus();
    for (int i = 0; i < 36; ++i) QTest::keyClick(drape, Qt::Key_Left, Qt::ControlModifier | Qt::ShiftModifier);
    QVERIFY(calm());
    QVERIFY(qRed(at(0.3)) > qBlue(at(0.3)) && qBlue(at(0.7)) > qRed(at(0.7)));  // turned by half
    // What is no such picture is told, and the light stays.
    QFile bad(dir_.filePath(QStringLiteral("bad.exr")));
    QVERIFY(bad.open(QIODevice::WriteOnly));
    bad.write("no picture");
    bad.close();
    const auto own = drape->view().own;
    drape->takeEnvironment(bad.fileName());
    QVERIFY(drape->message().contains(QStringLiteral("bad.exr")));
    QVERIFY(drape->view().own == own);
    drape->setEnvironment("north_hall");  // as its chip does
    QVERIFY(!drape->view().own && drape->view().environment == "north_hall");
  }
  void theLitPictureIsMadeAtAnySize() {
    QVERIFY(w_->openPath(floor_));
    QVERIFY(calm());
    PictureForm* form = w_->openPicture();
    form->setSize(300, 200);
    form->setSamples(4);
    const QString png = dir_.filePath(QStringLiteral("lit.png"));
    form->begin(png);
    QVERIFY(settled([&] { return !form->isBusy(); }));
    QVERIFY(form->told().contains(QStringLiteral("is written")));
    QCOMPARE(QImage(png).size(), QSize(300, 200));
    // Twice the same bits.
    const QString again = dir_.filePath(QStringLiteral("again.png"));
    form->begin(again);
    QVERIFY(settled([&] { return !form->isBusy(); }));
    QCOMPARE(QImage(again), QImage(png));
    // Cancelled: nothing is written, and the form says so; a second press closes it.
    form->setSize(2000, 2000);
    form->setSamples(4000);
    const QString never = dir_.filePath(QStringLiteral("never.exr"));
    form->begin(never);
    QVERIFY(settled([&] { return form->isBusy(); }));
    form->reject();
    QVERIFY(settled([&] { return !form->isBusy(); }));
    QVERIFY(!QFile::exists(never) && form->isVisible() && form->told().contains(QStringLiteral("Cancelled")));
    form->reject();
    QVERIFY(!form->isVisible());
  }
  void filesAreSavedOpenedDroppedAndKept() {
    QVERIFY(w_->openPath(floor_));
    const QString path = dir_.filePath(QStringLiteral("copy.loom"));
    QVERIFY(w_->saveTo(path));
    QCOMPARE(*read_file(path.toStdString(), 1 << 22), *read_file(floor_.toStdString(), 1 << 22));
    board()->select({"worn"});
    board()->setFocus();
    key(Qt::Key_Delete);
    QVERIFY(w_->isWindowModified());
    {  // closing with unsaved work asks, and Cancel stays
      Answer cancel(QMessageBox::Cancel);
      QVERIFY(!w_->close());
      QVERIFY(cancel.text.contains(QStringLiteral("not saved")));
    }
    Answer discard(QMessageBox::Discard);
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(path)});
    QDragEnterEvent enter(QPoint(400, 300), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(w_.get(), &enter);
    QVERIFY(enter.isAccepted());
    QDropEvent drop(QPointF(400, 300), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(w_.get(), &drop);
    QVERIFY(m().node("worn"));
    QVERIFY(!w_->openPath(dir_.filePath(QStringLiteral("none.loom"))));
    QVERIFY(m().node("worn"));  // what was open stays
  }
  void theDeliveryDialogueWritesWhatItShows() {
    QVERIFY(w_->openPath(floor_));
    QDialog* dialog = w_->openDelivery();
    auto* form = dialog->findChild<DeliverForm*>();
    const QString out = dir_.filePath(QStringLiteral("maps"));
    form->setFolder(out);
    form->findChildren<QComboBox*>().first()->setCurrentIndex(0);  // 256
    for (QCheckBox* b : form->findChildren<QCheckBox*>())
      if (b->text() == QStringLiteral("Occlusion")) b->setChecked(false);
    QSignalSpy done(form, &DeliverForm::finished);
    form->start();
    QVERIFY(form->isWriting());
    QVERIFY(done.wait(60000));
    QVERIFY(done[0][0].toBool());
    QCOMPARE(QDir(out).entryList(QDir::Files).size(), 4);
    form->findChildren<QComboBox*>().first()->setCurrentIndex(4);
    form->start();
    form->cancel();
    QVERIFY(done.wait(60000));
    QVERIFY(done[1][1].toString().contains(QStringLiteral("Cancelled")));
    QCOMPARE(QDir(out).entryList(QDir::Files | QDir::Hidden).size(), 4);
    dialog->close();
  }
  // A packed list, its channels changed, kept with the material, then every preset in a folder of its own.
  void packedListsAreDeliveredAndKept() {
    QVERIFY(w_->openPath(floor_));
    QDialog* dialog = w_->openDelivery();
    auto* form = dialog->findChild<DeliverForm*>();
    const QString out = dir_.filePath(QStringLiteral("packed"));
    form->setFolder(out);
    const auto named = [&](const QString& name) {
      for (QComboBox* b : form->findChildren<QComboBox*>())
        if (b->accessibleName() == name) return b;
      return static_cast<QComboBox*>(nullptr);
    };
    named(QStringLiteral("Size"))->setCurrentIndex(0);
    QComboBox* list = named(QStringLiteral("List"));
    list->setCurrentIndex(1);
    Q_EMIT list->activated(1);
    QComboBox* blue = named(QStringLiteral("Packed in blue"));
    QVERIFY(blue && blue->currentText() == QStringLiteral("metallic"));
    blue->setEditText(QStringLiteral("1 - height x"));
    QPushButton* deliver = nullptr;
    for (QPushButton* b : form->findChildren<QPushButton*>())
      if (b->text() == QStringLiteral("Deliver the maps")) deliver = b;
    QVERIFY(!deliver->isEnabled());  // with the reason
    blue->setEditText(QStringLiteral("1 - height"));
    QVERIFY(deliver->isEnabled());
    for (QCheckBox* b : form->findChildren<QCheckBox*>())
      if (b->text() == QStringLiteral("glTF 2.0") || b->text() == QStringLiteral("MaterialX 1.39")) b->setChecked(true);
    QSignalSpy done(form, &DeliverForm::finished);
    deliver->click();
    QVERIFY(done.wait(60000));
    QVERIFY2(done[0][0].toBool(), qPrintable(done[0][1].toString()));
    for (const char* document : {"gltf_256.gltf", "gltf_256.bin", "materialx_256.mtlx"})
      QVERIFY2(QFile::exists(out + QStringLiteral("/quay-floor_") + QLatin1String(document)), document);
    QVERIFY(!QFile::exists(out + QStringLiteral("/quay-floor_gltf_256.glb")));
    const QImage packed(out + QStringLiteral("/quay-floor_packed_256.png"));
    const auto graph = flatten(m(), catalogue());
    Weaver weaver(0);
    const auto woven =
        weaver.weave(*graph, {Want(graph->hem.at("height")), Want(graph->hem.at("roughness"))}, 256, Stop{});
    for (const QPoint p : {QPoint(3, 5), QPoint(100, 37), QPoint(200, 250)}) {
      const QColor c = packed.pixelColor(p);
      QVERIFY(std::abs(c.blueF() - (1 - woven->fields[0].strand[0]->at(p.x(), p.y()))) < 1.01f / 255);
      QVERIFY(std::abs(c.greenF() - woven->fields[1].strand[0]->at(p.x(), p.y())) < 1.01f / 255);
    }
    form->keepList(QStringLiteral("Hall"));
    QCOMPARE(m().lists.size(), std::size_t{1});
    QCOMPARE(m().lists[0].files.back().channels.at("b"), std::string("1 - height"));
    QCOMPARE(list->currentText(), QStringLiteral("Hall"));  // one goes on with it
    QCOMPARE(form->plan().files.back().channels.at("b").inverted, true);
    for (QCheckBox* b : form->findChildren<QCheckBox*>())
      if (b->accessibleName() == QStringLiteral("Every preset")) b->setChecked(true);
    form->start();
    QVERIFY(done.wait(60000));
    QVERIFY2(done[1][0].toBool(), qPrintable(done[1][1].toString()));
    for (const Preset& p : m().presets)
      QVERIFY(QFile::exists(out + QLatin1Char('/') + QString::fromStdString(id_of_name(p.name)) +
                            QStringLiteral("/quay-floor_packed_256.png")));
    dialog->close();
  }
  void picturesAreCopied() {
    QVERIFY(w_->openPath(floor_));
    QVERIFY(settled([&] { return w_->isIdle(); }));
    const auto copied = [&](const char* command) {
      for (QAction* a : w_->actions())
        if (a->text() == QLatin1String(command)) a->trigger();
      return QApplication::clipboard()->image();
    };
    QApplication::clipboard()->clear();
    const QImage lit = copied("Copy the lit picture"), flat = copied("Copy the loupe's picture");
    QCOMPARE(lit.size(), w_->drape()->image().size());
    QVERIFY(!flat.isNull() && flat.size() != lit.size());
  }
  void theDialsPanelDescribesAndOrders() {
    QVERIFY(w_->openPath(floor_));
    DialsPanel* panel = w_->openDials();
    panel->findChild<QListWidget*>()->setCurrentRow(3);
    const auto dial = [&] { return *m().value("wear")->dial; };
    type(panel, "Label", "Footfall");
    QCOMPARE(dial().label, std::string("Footfall"));
    type(panel, "To", "0.8");
    QCOMPARE(dial().most, 0.8);
    type(panel, "Highest allowed", "0.9");
    QCOMPARE(dial().limits->most, 0.9);
    type(panel, "Step", "0.1");
    QCOMPARE(dial().step, 0.1);
    type(panel, "Acts when", "units > 4");
    QCOMPARE(dial().acts.formula, std::string("units > 4"));
    QComboBox *kind = nullptr, *unit = nullptr;
    for (QComboBox* b : panel->findChildren<QComboBox*>()) {
      if (b->accessibleName() == QStringLiteral("Kind")) kind = b;
      if (b->accessibleName() == QStringLiteral("Unit")) unit = b;
    }
    unit->setCurrentIndex(unit->findText(QStringLiteral("degrees")));
    Q_EMIT unit->activated(unit->currentIndex());
    QVERIFY(dial().unit == Unit::degrees);
    QVERIFY(fieldOf(panel, "To")->text().contains(QChar(0x00b0)));
    kind->setCurrentIndex(kind->findText(QStringLiteral("on or off")));
    Q_EMIT kind->activated(kind->currentIndex());
    QCOMPARE(dial().kind, ParameterKind::toggle);
    // What it is at start has the control of its kind now.
    auto* box = panel->findChild<QCheckBox*>();
    QVERIFY(box);
    box->setChecked(!box->isChecked());
    QCOMPARE(std::get<double>(dial().at_start), box->isChecked() ? 1.0 : 0.0);
    press(panel, "up");
    QCOMPARE(m().values[2].id, std::string("wear"));
    type(panel, "Acts when", "nobody > 4");
    bool told = false;
    for (QLabel* l : panel->findChildren<QLabel*>()) told |= l->text().contains(QStringLiteral("acts_when"));
    QVERIFY(told);
    panel->close();
  }
  void presetsAreWorkedOnInThePanel() {
    QVERIFY(w_->openPath(floor_));
    DialsPanel* panel = w_->openDials();
    PresetList* presets = panel->presets();
    QListWidget* list = presets->list();
    QVERIFY(settled([&] { return presets->isIdle(); }, 60000));
    // Each has its own picture.
    const auto picture = [&](int i) { return list->item(i)->icon().pixmap(48, 48).toImage(); };
    QVERIFY(picture(0) != picture(1) && picture(1) != picture(2));
    const std::string second = m().presets[1].name;
    list->setCurrentRow(1);
    press(presets, "up");
    QCOMPARE(m().presets[0].name, second);
    QCOMPARE(list->currentRow(), 0);
    press(presets, "turn the dials to it");
    QCOMPARE(std::get<double>(m().value("wear")->value), std::get<double>(m().presets[0].values.at("wear")));
    list->item(0)->setText(QStringLiteral("Ferry day"));
    QTRY_COMPARE(m().presets[0].name, std::string("Ferry day"));
    list->item(0)->setText(list->item(1)->text());  // taken by another
    QTRY_COMPARE(list->item(0)->text(), QStringLiteral("Ferry day"));
    w_->document().edit(QStringLiteral("turn"), edit::set_value(m(), "wear", 0.123));
    list->setCurrentRow(0);
    press(presets, "update");
    QCOMPARE(std::get<double>(m().presets[0].values.at("wear")), 0.123);
    press(presets, "remove");
    QCOMPARE(m().presets.size(), std::size_t{2});
    panel->close();
  }
  void aBoltSaysWhatItIsAndIsWritten() {
    QVERIFY(w_->openPath(floor_));
    BoltDialog* dialog = w_->openBolt();
    type(dialog, "Identifier", "Quay floor");
    QPushButton* write = nullptr;
    for (QPushButton* b : dialog->findChildren<QPushButton*>())
      if (b->text().startsWith(QStringLiteral("Write bolt"))) write = b;
    QVERIFY(write && !write->isEnabled());  // with the reason beside it
    type(dialog, "Identifier", "quay_floor_tiles");
    QVERIFY(write->isEnabled());
    type(dialog, "Version", "2.1");
    type(dialog, "Tags", "floor,  glazed tiles,");
    type(dialog, "Licence", "CC0-1.0");
    QCOMPARE(m().imprint.id, std::string("quay_floor_tiles"));
    QCOMPARE(m().imprint.tags, (std::vector<std::string>{"floor", "glazed tiles"}));
    QCOMPARE(write->text(), QStringLiteral("Write bolt 2.1 …"));
    auto* notes = dialog->findChild<QPlainTextEdit*>();
    notes->setPlainText(QStringLiteral("# Laid\n\nWith ![out](/etc/passwd) *care*."));
    QCOMPARE(m().notes, notes->toPlainText().toStdString());
    for (QToolButton* b : dialog->findChildren<QToolButton*>())
      if (b->text() == QStringLiteral("as they will be read")) b->click();
    auto* rendered = dialog->findChild<QTextBrowser*>();
    QVERIFY(rendered->isVisible() && rendered->toPlainText().startsWith(QStringLiteral("Laid\n")));
    const QString path = dir_.filePath(QStringLiteral("floor-tiles.bolt"));
    QVERIFY(w_->files().writeBolt(path));
    const auto bolt = read_bolt(path.toStdString());
    QVERIFY2(bolt.ok(), bolt ? "" : bolt.error().text().c_str());
    QVERIFY(bolt->material.imprint == m().imprint);
    QCOMPARE(bolt->pictures.size(), m().presets.size() + 1);
    dialog->close();
  }
  void suggestionsShowWhatTheyWouldGive() {
    QVERIFY(w_->openPath(floor_));
    board()->select({"worn"});
    QVERIFY(calm());
    board()->setFocus();
    QTest::keyClick(board(), Qt::Key_Slash);
    QLineEdit* line = nullptr;
    for (QLineEdit* l : board()->findChildren<QLineEdit*>())
      if (l->isVisible()) line = l;
    QVERIFY(line);
    QTest::keyClicks(line, QStringLiteral("invert"));
    auto* list = line->parentWidget()->findChild<QListWidget*>();
    QVERIFY(list && list->count() > 0);
    // The picture of Invert is the negative of the node's own: bright where that is dark.
    const auto mean = [](const QImage& image) {
      double sum = 0;
      for (int y = 0; y < image.height(); ++y)
        for (int x = 0; x < image.width(); ++x) sum += qGray(image.pixel(x, y));
      return sum / (255.0 * image.width() * image.height());
    };
    QTRY_VERIFY_WITH_TIMEOUT(mean(list->item(0)->icon().pixmap(34, 34).toImage()) > 0.6, 20000);
    QTest::keyClick(line, Qt::Key_Escape);
  }
  void aSnappedCountIsTold() {
    QVERIFY(w_->openPath(floor_));
    document_edit("laid", "units_across", 7.0);
    board()->select({"laid"});
    bool told = false;
    for (QLabel* l : w_->tray()->findChildren<QLabel*>())
      told |= l->text().contains(QStringLiteral("Snapped to 8 units across"));
    QVERIFY(told);
  }
  void aStackOffersAsManyPegsAsItHasLayers() {
    add(QStringLiteral("layers"));
    const auto offered = [&] { return board()->view().layout.tag("layers")->inputs.size(); };
    QCOMPARE(offered(), std::size_t{6});  // base, height, and two layers with their masks
    document_edit("layers", "count", 4.0);
    QCOMPARE(offered(), std::size_t{10});
  }
  void theNightShiftReachesWhatIsOpen() {
    QVERIFY(w_->openPath(floor_));
    board()->select({"laid"});
    const auto label_colour = [&] {
      for (QLabel* l : w_->findChildren<QLabel*>())
        if (l->property("role").toString() == QStringLiteral("title") && l->isVisible())
          return l->palette().color(QPalette::WindowText);
      return QColor();
    };
    w_->ensurePolished();
    const QImage day = w_->tray()->grab().toImage();
    setNight(true);
    const QImage night = w_->tray()->grab().toImage();
    setNight(false);
    QVERIFY(qGray(day.pixel(2, 2)) > 200 && qGray(night.pixel(2, 2)) < 90);
    QVERIFY(label_colour().isValid());
  }
  void everyDemoOpensWithoutAFault() {
    for (const QString& file : QDir(QStringLiteral(LOOM_DEMO)).entryList({QStringLiteral("*.loom")})) {
      QVERIFY2(w_->openPath(QStringLiteral(LOOM_DEMO "/") + file), qPrintable(file));
      QVERIFY2(calm(), qPrintable(file));
      const std::size_t slots = board()->view().slotsOnSurface.empty() ? 5 : 3;  // what is flat needs fewer
      QVERIFY2(w_->lastSeen() && w_->lastSeen()->faults.empty() &&
                   w_->lastSeen()->hem.size() + board()->view().slotsOnSurface.size() >= slots,
               qPrintable(file));
      QVERIFY2(m().presets.size() >= 2, qPrintable(file));
    }
  }
  void everyControlHasANameForScreenReaders() {
    QVERIFY(w_->openPath(floor_));
    board()->select({"laid"});
    QVERIFY(calm());
    for (QWidget* c : w_->findChildren<QWidget*>()) {
      if (!c->isVisible() || c->focusPolicy() == Qt::NoFocus || c->inherits("QScrollArea") || c->inherits("QScrollBar"))
        continue;
      const bool button = c->inherits("QAbstractButton");
      QString name = c->accessibleName();
      if (name.isEmpty() && button) name = static_cast<QAbstractButton*>(c)->text();
      QVERIFY2(!name.isEmpty(), c->metaObject()->className());
    }
  }
  void theBoardKeepsItsFormsAcrossZoom() {
    QVERIFY(w_->openPath(floor_));
    for (const double z : {0.25, 0.5, 1.0, 1.5}) {
      board()->setZoom(z);
      const auto form = board()->view().layout.form();
      QCOMPARE(form, z < 0.42 ? TagForm::picture : z < 0.8 ? TagForm::brief : TagForm::whole);
      // No two tags of a lane overlap.
      const auto& tags = board()->view().layout.tags();
      for (std::size_t i = 0; i < tags.size(); ++i)
        for (std::size_t k = 0; k < i; ++k) QVERIFY(!tags[i].rect.intersects(tags[k].rect));
      QCOMPARE(board()->view().layout.threads().size(), m().threads.size() + m().hem.size());
    }
  }
};

QTEST_MAIN(TestWindow)
#include "tst_window.moc"
