// Room for the views, what is told over them, and the palette.
#include "tests/app/driving.h"

#include <QSplitter>

#include "app/base/chip.h"
#include "app/base/fits_screen.h"
#include "app/base/sides.h"
#include "app/shell/view_room.h"

using namespace loom;
using namespace loom::app;
using namespace loom::test;

namespace {

// Relative luminance and contrast. Source: WCAG 2.2, "relative luminance" and "contrast ratio".
double luminance(const QColor& c) {
  const auto linear = [](double x) { return x <= 0.04045 ? x / 12.92 : std::pow((x + 0.055) / 1.055, 2.4); };
  return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
}
double contrast(const QColor& a, const QColor& b) {
  const double x = luminance(a), y = luminance(b);
  return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
}

}  // namespace

class TestViews : public QObject {
  Q_OBJECT
  std::unique_ptr<MainWindow> w_;

  bool calm() const {
    return settled([this] { return w_->isIdle(); });
  }
  void key(Qt::Key k, Qt::KeyboardModifiers m = {}) const { QTest::keyClick(w_->board(), k, m); }

 private Q_SLOTS:
  void initTestCase() { prepare(); }
  void init() {
    w_ = shownWindow();
    w_->board()->setFocus();
  }
  void cleanup() { closeUnsaved(w_); }

  void contrastIsWhatTheGuidelinesAsk() {
    QVERIFY(std::abs(contrast(Qt::black, Qt::white) - 21) < 1e-9);            // as WCAG has it
    QVERIFY(std::abs(contrast(QColor("#767676"), Qt::white) - 4.54) < 0.01);  // the lightest grey that passes
    for (const bool night : {false, true}) {
      setNight(night);
      const Theme& t = theme();
      std::vector<QColor> grounds{t.linen, t.board, t.paper, t.hem};
      for (int i = 0; i < kLaneTints; ++i) grounds.push_back(laneTint(i));
      for (const QColor& ground : grounds) {
        const auto reads = [&](const QColor& text, const char* name, double least) {
          QVERIFY2(
              contrast(text, ground) >= least,
              qPrintable(
                  QStringLiteral("%1 on %2: %3").arg(QLatin1String(name), ground.name()).arg(contrast(text, ground))));
        };
        reads(t.ink, "ink", 4.5);
        reads(t.mute, "mute", 4.5);
        if (ground != t.hem) reads(t.madder, "madder", 4.5), reads(t.caution, "caution", 4.5);
        reads(t.indigo, "indigo", 4.5);
      }
      for (const QColor& ground : {t.linen, t.paper}) QVERIFY(contrast(t.edge, ground) >= 3);
      for (int i = 0; i < kLaneTints; ++i) QVERIFY(contrast(t.thread, laneTint(i)) >= 3);
      if (night)
        for (int i = 0; i < kLaneTints; ++i) QVERIFY(contrast(t.paper, laneTint(i)) >= 1.6);
      QVERIFY(contrast(Qt::white, t.picture) >= 4.5);
    }
    setNight(false);
  }

  void aViewFillsTheBoardByOneKeyAndComesBack() {
    const int wide = w_->drape()->width(), board = w_->board()->width();
    key(Qt::Key_Z);
    QVERIFY(!w_->board()->isVisible() && !w_->loupe()->isVisible());
    QTRY_COMPARE(w_->drape()->width(), w_->width());
    key(Qt::Key_Z, Qt::ShiftModifier);  // the other one in its stead
    QVERIFY(!w_->drape()->isVisible() && w_->loupe()->isVisible());
    QTRY_COMPARE(w_->loupe()->width(), w_->width());
    QTest::keyClick(w_->loupe(), Qt::Key_Z, Qt::ShiftModifier);
    QVERIFY(w_->board()->isVisible() && w_->drape()->isVisible() && w_->loupe()->isVisible());
    QTRY_COMPARE(w_->drape()->width(), wide);
    QTRY_COMPARE(w_->board()->width(), board);
    // Another workspace has all its views.
    key(Qt::Key_Z);
    w_->showWorkspace(MainWindow::Workspace::proof);
    QVERIFY(w_->loupe()->isVisible() && w_->drape()->isVisible());
    w_->showWorkspace(MainWindow::Workspace::weave);
    QVERIFY(w_->board()->isVisible());
    QVERIFY(calm());
  }

  void aViewStandsInAWindowOfItsOwn() {
    Chip* where = nullptr;
    for (Chip* c : w_->loupe()->findChildren<Chip*>())
      if (c->accessibleName() == QStringLiteral("Where the loupe stands")) where = c;
    QVERIFY(where);
    const int high = w_->drape()->height();
    where->setFocus();
    QTest::keyClick(where, Qt::Key_Comma);  // the last of the three places
    QVERIFY(w_->room().placeOf(w_->loupe()) == ViewRoom::Place::window);
    QWidget* own = w_->loupe()->window();
    QVERIFY(own != w_.get() && own->isVisible() && w_->loupe()->isVisible());
    QTRY_COMPARE(w_->drape()->height(), w_->board()->parentWidget()->parentWidget()->height());  // has the whole column
    // The keys of the main window act there too, and what is shown goes on.
    own->activateWindow();
    QVERIFY(QTest::qWaitForWindowActive(own));
    QTest::keyClick(w_->loupe(), Qt::Key_Z);
    QVERIFY(!w_->board()->isVisible() && w_->room().placeOf(w_->drape()) == ViewRoom::Place::over);
    w_->room().put(w_->drape(), ViewRoom::Place::beside);
    own->close();
    QVERIFY(w_->room().placeOf(w_->loupe()) == ViewRoom::Place::beside);
    QVERIFY(w_->loupe()->window() == w_.get() && w_->loupe()->isVisible());
    QTRY_COMPARE(w_->drape()->height(), high);
    // Both away, and the window closed with them.
    for (QWidget* view : {static_cast<QWidget*>(w_->drape()), static_cast<QWidget*>(w_->loupe())})
      w_->room().put(view, ViewRoom::Place::window);
    QVERIFY(w_->drape()->window() != w_.get() && w_->loupe()->window() != w_.get());
    QVERIFY(w_->drape()->window() != w_->loupe()->window());
    w_->room().bringBack();
    QVERIFY(w_->drape()->window() == w_.get() && w_->loupe()->window() == w_.get());
    // What another covers is seen in a window all the same, and nothing is covered any more.
    key(Qt::Key_Z);
    QVERIFY(!w_->loupe()->isVisible());
    w_->room().put(w_->loupe(), ViewRoom::Place::window);
    QVERIFY(w_->loupe()->isVisible() && w_->board()->isVisible());
    QVERIFY(calm());
  }

  void theSidesOfALineAreNamedBesideIt() {
    const auto drawn = [](double line) {
      QImage image(300, 120, QImage::Format_RGB32);
      image.fill(QColor("#767676"));
      QPainter p(&image);
      paintSides(p, image.rect(), line, QStringLiteral("before"), QStringLiteral("after"));
      p.end();
      return image;
    };
    const auto touched = [](const QImage& image, int from, int to) {
      for (int x = std::max(from, 0); x < std::min(to, image.width()); ++x)
        for (int y = 0; y < image.height(); ++y)
          if (image.pixelColor(x, y) != QColor("#767676")) return true;
      return false;
    };
    const QImage middle = drawn(150);
    QVERIFY(touched(middle, 0, 150) && touched(middle, 150, 300) && !touched(middle, 143, 157));
    const QImage left = drawn(20);  // no room for the first
    QVERIFY(!touched(left, 0, 27) && touched(left, 27, 300));
  }

  void windowsOpenWithinTheirScreen() {
    FitsScreen fits;
    qApp->installEventFilter(&fits);
    QWidget large(nullptr, Qt::Window), small(nullptr, Qt::Window);
    large.resize(5000, 4000);
    small.resize(200, 100);
    large.show();
    small.show();
    const QRect free = large.screen()->availableGeometry();
    QVERIFY(free.contains(large.geometry()) && large.height() <= free.height() - 36);
    QCOMPARE(small.size(), QSize(200, 100));
    QVERIFY(!small.testAttribute(Qt::WA_Moved));  // the desktop places it
    QWidget far(nullptr, Qt::Window);
    far.setGeometry(free.right() - 20, free.bottom() - 20, 300, 200);
    far.show();
    QVERIFY(free.contains(far.geometry()));
    qApp->removeEventFilter(&fits);
  }
};

QTEST_MAIN(TestViews)
#include "tst_views.moc"
