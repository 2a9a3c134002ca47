// Drawings against librsvg, lettering against FreeType's own raster, pictures through files of every format.
#include <OpenImageIO/imageio.h>
#include <cairo.h>
#include <librsvg/rsvg.h>

#include <QTemporaryDir>
#include <fstream>
#include <random>

#include "core/bolt/package.h"
#include "core/graph/allowed_files.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/io/drawing.h"
#include "core/io/image.h"
#include "core/nodes/drawn.h"
#include "core/plane/colour.h"
#include "core/plane/continuous.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

class TestDrawings : public QObject {
  Q_OBJECT
  static constexpr int kSize = 256;

  struct Reference {
    Plane alpha, red;
  };  // red: sRGB code over black, 0..1
  static Reference by_librsvg(const std::string& svg) {
    GError* error = nullptr;
    RsvgHandle* handle = rsvg_handle_new_from_data(reinterpret_cast<const guint8*>(svg.data()), svg.size(), &error);
    if (!handle) qFatal("librsvg does not read the drawing");
    cairo_surface_t* surface = cairo_image_surface_create(CAIRO_FORMAT_ARGB32, kSize, kSize);
    cairo_t* cr = cairo_create(surface);
    const RsvgRectangle frame{0, 0, kSize, kSize};
    rsvg_handle_render_document(handle, cr, &frame, &error);
    cairo_surface_flush(surface);
    Reference r{Plane(kSize), Plane(kSize)};
    const unsigned char* data = cairo_image_surface_get_data(surface);
    for (int y = 0; y < kSize; ++y)
      for (int x = 0; x < kSize; ++x) {
        const auto* p = reinterpret_cast<const std::uint32_t*>(data + y * cairo_image_surface_get_stride(surface)) + x;
        r.alpha.at(x, y) = static_cast<float>(*p >> 24) / 255;
        r.red.at(x, y) = static_cast<float>((*p >> 16) & 255) / 255;
      }
    cairo_destroy(cr);
    cairo_surface_destroy(surface);
    g_object_unref(handle);
    return r;
  }
  static Drawn ours(const std::string& svg) {
    const auto drawing = read_svg(svg);
    if (!drawing) qFatal("%s", drawing.error().text().c_str());
    return draw(*drawing, placed(*drawing, "stretched", 0), kSize);
  }
  static std::string svg(const std::string& inside) {
    return "<svg xmlns=\"http://www.w3.org/2000/svg\" xmlns:xlink=\"http://www.w3.org/1999/xlink\" viewBox=\"0 0 100 "
           "100\" width=\"100\" height=\"100\">" +
           inside + "</svg>";
  }

 private Q_SLOTS:
  void coverageIsAsLibrsvgs_data() {
    QTest::addColumn<QString>("inside");
    QTest::newRow("polygon") << "<polygon points='10,10 90,22 70,88 33,71'/>";
    QTest::newRow("star, non-zero") << "<path d='M50 5 L79 95 L3 38 L97 38 L21 95 Z'/>";
    QTest::newRow("star, even-odd") << "<path fill-rule='evenodd' d='M50 5 L79 95 L3 38 L97 38 L21 95 Z'/>";
    QTest::newRow("a hole by direction") << "<path d='M10 10 H90 V90 H10 Z M30 30 V70 H70 V30 Z'/>";
    QTest::newRow("cubics") << "<path d='M10 50 C10 0 90 0 90 50 S60 120 50 60 c-5 -20 -30 10 -40 -10 z'/>";
    QTest::newRow("quadratics") << "<path d='M5 60 Q30 5 50 50 T95 40 L95 90 q-40 -20 -90 0 z'/>";
    QTest::newRow("arcs") << "<path d='M20 50 A30 20 30 1 1 80 55 A30 40 0 0 0 20 50'/>";
    QTest::newRow("arc flags without blanks") << "<path d='M20 50a30 20 30 1160 5a30 40 0 00-60-5'/>";
    QTest::newRow("circle and ellipse")
        << "<circle cx='30' cy='40' r='22.5'/><ellipse cx='66' cy='60' rx='30' ry='12'/>";
    QTest::newRow("rounded box") << "<rect x='12.3' y='20.7' width='70' height='50' rx='14' ry='9'/>";
    QTest::newRow("stroke, miter") << "<path fill='none' stroke='black' stroke-width='9' d='M15 80 L50 20 L85 80'/>";
    QTest::newRow("stroke, miter limit")
        << "<path fill='none' stroke='black' stroke-width='9' stroke-miterlimit='2' d='M30 90 L50 20 L70 90'/>";
    QTest::newRow("stroke, round") << "<path fill='none' stroke='black' stroke-width='11' stroke-linejoin='round' "
                                      "stroke-linecap='round' d='M20 80 L50 25 L80 70 L60 85'/>";
    QTest::newRow("stroke, bevel and square")
        << "<path fill='none' stroke='black' stroke-width='11' stroke-linejoin='bevel' stroke-linecap='square' d='M20 "
           "80 L50 25 L80 70'/>";
    QTest::newRow("stroke, closed curve")
        << "<path fill='none' stroke='black' stroke-width='6' d='M20 50 C20 0 80 0 80 50 S20 100 20 50 Z'/>";
    QTest::newRow("a stroke thicker than its bend")
        << "<path fill='none' stroke='black' stroke-width='9' stroke-linejoin='round' stroke-linecap='round' d='M44 52 "
           "c1 -9 7 -9 8 0'/>";
    QTest::newRow("thicker than its zigzag")
        << "<path fill='none' stroke='black' stroke-width='22' stroke-linejoin='round' d='M20 50 L26 60 L32 50 L38 60 "
           "L44 50 L80 55'/>";
    QTest::newRow("thicker than its zigzag, bevel")
        << "<path fill='none' stroke='black' stroke-width='22' stroke-linejoin='bevel' d='M20 50 L26 60 L32 50 L38 60 "
           "L44 50 L80 55'/>";
    QTest::newRow("there and back") << "<path fill='none' stroke='black' stroke-width='12' stroke-linejoin='round' "
                                       "stroke-linecap='round' d='M20 40 L80 60 L20 40 L50 80'/>";
    QTest::newRow("a loop, crossing itself")
        << "<path fill='none' stroke='black' stroke-width='14' stroke-linejoin='round' d='M20 85 C90 -5 10 -5 80 85'/>";
    QTest::newRow("dashes") << "<path fill='none' stroke='black' stroke-width='6' stroke-dasharray='12 5 3 5' "
                               "stroke-dashoffset='4' d='M5 20 L95 20 L95 80 L5 80'/>";
    QTest::newRow("transforms") << "<g transform='translate(50 50) rotate(30)'><rect x='-30' y='-10' width='60' "
                                   "height='20' transform='skewX(20) scale(1 1.5)'/></g>";
    QTest::newRow("matrix, stretched stroke") << "<g transform='matrix(1.5 0.2 -0.3 0.6 10 30)'><circle cx='30' "
                                                 "cy='30' r='18' fill='none' stroke='black' stroke-width='6'/></g>";
    QTest::newRow("uses")
        << "<defs><rect id='k' width='20' height='20'/></defs><use href='#k' xlink:href='#k' x='10' y='10'/><g "
           "transform='rotate(45 60 60)'><use xlink:href='#k' href='#k' x='50' y='50'/></g>";
    QTest::newRow("opacity") << "<rect x='10' y='10' width='50' height='50' opacity='0.5'/><circle cx='60' cy='60' "
                                "r='25' fill-opacity='0.25'/>";
    QTest::newRow("hidden")
        << "<rect x='10' y='10' width='30' height='30' display='none'/><circle cx='60' cy='60' r='25'/>";
    QTest::newRow("style outweighs attributes")
        << "<rect x='10' y='10' width='60' height='30' fill='none' stroke='none' style='fill: black; stroke: black; "
           "stroke-width: 4'/>";
  }
  void aRingThinnerThanItsStrokeHasNoHole() {
    // SVG 2 (W3C), section 13.5.6: the stroke is what lies within half its width along the normals; across the middle,
    // that is all of the disc. The reference library leaves a hole where the offset has turned inside out.
    const Drawn d = ours(svg("<circle cx='50' cy='50' r='4' fill='none' stroke='black' stroke-width='12'/>"));
    for (int y = 0; y < kSize; ++y)
      for (int x = 0; x < kSize; ++x)
        if (std::hypot(x + 0.5 - kSize / 2, y + 0.5 - kSize / 2) < 9.5 * kSize / 100) QVERIFY(d.alpha.at(x, y) > 0.99f);
    const double area = static_cast<double>(range_of(d.alpha).mean) * 1e4;
    QVERIFY2(std::abs(area - 3.14159265 * 100) < 0.4, QByteArray::number(area));
  }
  void coverageIsAsLibrsvgs() {
    QFETCH(QString, inside);
    const std::string text = svg(inside.toStdString());
    const Drawn mine = ours(text);
    const Reference theirs = by_librsvg(text);
    QVERIFY(range_of(theirs.alpha).most > 0.2f);
    double sum = 0, most = 0;
    for (std::size_t i = 0; i < mine.alpha.texels(); ++i) {
      const double d =
          std::abs(static_cast<double>(mine.alpha.data()[i]) - static_cast<double>(theirs.alpha.data()[i]));
      sum += d;
      most = std::max(most, d);
    }
    // cairo samples 15 rows by 17 columns a pixel: a texel may be a seventh off where an edge is almost level.
    QVERIFY2(sum / static_cast<double>(mine.alpha.texels()) < 0.0015,
             qPrintable(QStringLiteral("mean apart %1").arg(sum / static_cast<double>(mine.alpha.texels()))));
    QVERIFY2(most < 0.22, qPrintable(QStringLiteral("furthest %1").arg(most)));
  }
  void gradientsAreAsLibrsvgs_data() {
    QTest::addColumn<QString>("inside");
    const auto row = [](const char* label, const char* gradient,
                        const char* shapes = "<rect x='10' y='20' width='70' height='55' fill='url(#g)'/>") {
      QTest::newRow(label) << QStringLiteral("<defs>") + QLatin1String(gradient) + QStringLiteral("</defs>") +
                                  QLatin1String(shapes);
    };
    const QString stops = QStringLiteral(
        "<stop offset='0' stop-color='#f02000'/><stop offset='40%' stop-color='#208060'/><stop offset='1' "
        "style='stop-color: #fff080'/>");
    const auto with_stops = [&](const char* label, const char* opening, const char* closing,
                                const char* shapes = "<rect x='10' y='20' width='70' height='55' fill='url(#g)'/>") {
      row(label, (QByteArray(opening) + stops.toUtf8() + closing).constData(), shapes);
    };
    with_stops("over the shape's box", "<linearGradient id='g'>", "</linearGradient>");
    with_stops("slanted, over a curve", "<linearGradient id='g' x1='10%' y1='0' x2='0.8' y2='1'>", "</linearGradient>",
               "<path d='M10 50 C10 0 90 0 90 50 S60 120 50 60 z' fill='url(#g)'/>");
    with_stops("in the user's space, turned",
               "<linearGradient id='g' gradientUnits='userSpaceOnUse' x1='20' y1='20' x2='60' y2='20' "
               "gradientTransform='rotate(30 20 20)'>",
               "</linearGradient>");
    with_stops("mirrored", "<linearGradient id='g' x1='0.3' x2='0.5' spreadMethod='reflect'>", "</linearGradient>");
    with_stops("repeated", "<linearGradient id='g' x1='0.3' x2='0.55' y2='0.1' spreadMethod='repeat'>",
               "</linearGradient>");
    with_stops("radial", "<radialGradient id='g'>", "</radialGradient>");
    with_stops("radial, with a focus",
               "<radialGradient id='g' cx='50' cy='45' r='32' fx='38' fy='35' gradientUnits='userSpaceOnUse'>",
               "</radialGradient>", "<g transform='skewX(10)'><circle cx='45' cy='48' r='36' fill='url(#g)'/></g>");
    with_stops("along a stroke", "<linearGradient id='g' gradientUnits='userSpaceOnUse' x1='20' x2='80'>",
               "</linearGradient>", "<path fill='none' stroke='url(#g)' stroke-width='11' d='M20 80 L50 25 L80 70'/>");
    with_stops("stops of another", "<linearGradient id='h' x2='0' y2='1'>",
               "</linearGradient><linearGradient id='g' xlink:href='#h' href='#h' y1='0.2'/>");
    row("opacity",
        "<linearGradient id='g'><stop offset='0.1' stop-color='black'/><stop offset='0.9' stop-color='black' "
        "stop-opacity='0.1'/></linearGradient>");
    row("a hard change",
        "<linearGradient id='g'><stop offset='0' stop-color='#102030'/><stop offset='0.503' "
        "stop-color='#102030'/><stop offset='0.503' stop-color='#d0c0b0'/><stop offset='1' "
        "stop-color='#d0c0b0'/></linearGradient>");
    row("a single stop", "<linearGradient id='g'><stop offset='0.4' stop-color='#a04020'/></linearGradient>");
  }
  void gradientsAreAsLibrsvgs() {
    QFETCH(QString, inside);
    const std::string text = svg(inside.toStdString());
    const Drawn mine = ours(text);
    const Reference theirs = by_librsvg(text);
    QVERIFY(range_of(theirs.alpha).most > 0.2f);
    double alphas = 0, reds = 0;
    for (std::size_t i = 0; i < mine.alpha.texels(); ++i) {
      const float a = mine.alpha.data()[i], red = a > 0 ? srgb_from_linear(mine.red.data()[i] / a) * a : 0;
      alphas += static_cast<double>(std::abs(a - theirs.alpha.data()[i]));
      reds += static_cast<double>(std::abs(red - theirs.red.data()[i]));
    }
    const auto count = static_cast<double>(mine.alpha.texels());
    QVERIFY2(alphas / count < 0.0015 && reds / count < 0.0025,
             qPrintable(QStringLiteral("mean apart %1, red %2").arg(alphas / count).arg(reds / count)));
  }
  void aPathEndsWhereItIsNoPathAnyMore() {
    // SVG 1.1, appendix F.2: drawn up to the command that is in error.
    for (const char* data : {"M10 10 H80 V60 z 7", "M10 10 H80 V60 z 7 8 L 3 3", "M10 10 H80 V60 z?"}) {
      const auto drawing = read_svg(svg(std::string("<path d='") + data + "'/>"));
      QCOMPARE(drawing->shapes.size(), std::size_t{1});
      QCOMPARE(drawing->shapes[0].path.pieces.size(), std::size_t{4});
    }
    QCOMPARE(read_svg(svg("<path d='z1'/><path d='L 3 3'/><path d='7 7'/>"))->shapes.size(), std::size_t{0});
  }
  void aGradientGoesOnOverTheEdge() {
    const auto one =
        read_svg(svg("<defs><linearGradient id='g' gradientUnits='userSpaceOnUse' x1='80' x2='120'><stop "
                     "stop-color='black'/><stop offset='1' stop-color='white'/></linearGradient></defs><rect x='80' "
                     "y='0' width='40' height='100' fill='url(#g)'/>"));
    const Plane red = draw(*one, placed(*one, "stretched", 0), 128).red;
    const auto code_at = [&](int x) { return srgb_from_linear(red.at(wrap(x, 128), 64)); };
    for (int x = 104; x < 152; ++x)
      QVERIFY2(std::abs(code_at(x) - ((static_cast<float>(x) + 0.5f) / 1.28f - 80) / 40) < 0.002f,
               QByteArray::number(x));
    // Those that refer to each other in a ring, or to nothing, are not drawn; the rest is.
    const auto ring =
        read_svg(svg("<defs><linearGradient id='g' href='#h'/><linearGradient id='h' href='#g'/></defs><rect width='9' "
                     "height='9' fill='url(#g)'/><rect width='9' height='9' fill='url(#none)'/><circle r='3'/>"));
    QCOMPARE(ring->shapes.size(), std::size_t{1});
  }
  void coloursAreLinearAndInOrder() {
    const std::string text =
        svg("<rect width='100' height='100' fill='#204060'/><rect x='20' y='20' width='60' height='60' "
            "fill='rgb(200,100,50)'/><circle cx='50' cy='50' r='10' fill='gold'/>");
    const Drawn mine = ours(text);
    const Reference theirs = by_librsvg(text);
    for (const auto& [x, y] : {std::pair{10, 10}, {80, 80}, {128, 128}})
      QVERIFY(std::abs(srgb_from_linear(mine.red.at(x, y)) - theirs.red.at(x, y)) < 0.003f);
  }
  void whatReachesBeyondComesInAtTheOtherSide() {
    const auto one = read_svg(svg("<circle cx='0' cy='50' r='20'/>"));
    const Plane mask = draw(*one, placed(*one, "stretched", 0), 128).alpha;
    QVERIFY(mask.at(5, 64) > 0.99f && mask.at(123, 64) > 0.99f && mask.at(64, 64) == 0);
    QVERIFY(std::abs(range_of(mask).mean - 3.14159265f * 0.04f) < 2e-4f);
  }
  // The definition itself (SVG 1.1, W3C, section 11.3): the winding number counted at 64 x 64 places of every texel.
  void coverageIsTheShareOfPlacesWithin_data() {
    QTest::addColumn<int>("corners");
    QTest::addColumn<double>("wide");  // in texels
    QTest::addColumn<bool>("evenOdd");
    for (const bool even : {false, true})
      for (const auto& [corners, wide] : {std::pair{3, 11.0}, {4, 0.9}, {9, 11.0}, {24, 6.0}, {40, 1.7}, {90, 9.0}})
        QTest::addRow("%d corners over %g texels, %s", corners, wide, even ? "even-odd" : "non-zero")
            << corners << wide << even;
  }
  void coverageIsTheShareOfPlacesWithin() {
    QFETCH(int, corners);
    QFETCH(double, wide);
    QFETCH(bool, evenOdd);
    constexpr int kTexels = 16, kPlaces = 64;
    std::mt19937 chance(11);
    std::uniform_real_distribution<double> share(0.02, 0.98);
    for (int round = 0; round < 3; ++round) {
      std::vector<Spot> at;
      for (int i = 0; i < corners; ++i)
        at.push_back({(8 - wide / 2) + wide * share(chance), (8 - wide / 2) + wide * share(chance)});
      if (round == 1) at[1].y = at[0].y + 1e-9;  // all but level
      if (round == 2) at[2] = at[0];
      Drawing d;
      Figure f;
      f.even_odd = evenOdd;
      f.fill = {true, {1, 1, 1, 1}};
      f.path.move(at[0]);
      for (std::size_t i = 1; i < at.size(); ++i) f.path.line(at[i]);
      f.path.close();
      d.shapes.push_back(f);
      const Plane mine = draw(d, {1.0 / kTexels, 0, 0, 1.0 / kTexels, 0, 0}, kTexels).alpha;
      const auto within = [&](double x, double y) {
        int winding = 0;
        for (std::size_t i = 0; i < at.size(); ++i) {
          const Spot p = at[i], q = at[(i + 1) % at.size()];
          if ((p.y <= y) != (q.y <= y) && p.x + (y - p.y) / (q.y - p.y) * (q.x - p.x) < x) winding += p.y <= y ? 1 : -1;
        }
        return evenOdd ? winding & 1 : winding != 0;
      };
      for (int y = 0; y < kTexels; ++y)
        for (int x = 0; x < kTexels; ++x) {
          if (std::max(std::abs(x - 7.5), std::abs(y - 7.5)) > wide / 2 + 1) {
            QCOMPARE(mine.at(x, y), 0.0f);
            continue;
          }
          int count = 0;
          for (int k = 0; k < kPlaces * kPlaces; ++k)
            count += within(x + (k % kPlaces + 0.5) / kPlaces, y + (k / kPlaces + 0.5) / kPlaces);
          const double apart = std::abs(static_cast<double>(mine.at(x, y)) - count / double(kPlaces * kPlaces));
          QVERIFY2(apart < (corners > 60 ? 0.03 : 0.015),
                   qPrintable(QStringLiteral("round %1, texel %2 %3: %4 apart").arg(round).arg(x).arg(y).arg(apart)));
        }
    }
  }
  void aSlantedBordersTexelsAreExact() {  // by triangles and trapezoids, to the last figures
    const auto one = read_svg(svg("<polygon points='0,0 100,0 0,25'/>"));
    const Plane mask = draw(*one, placed(*one, "stretched", 0), 8)
                           .alpha;  // texel 12.5: the border falls by a quarter of a texel in each
    for (int x = 0; x < 8; ++x)
      QVERIFY(std::abs(mask.at(x, 0) - static_cast<float>(std::min(1.0, 2 - (x + 0.5) / 4))) < 2e-5f);
    QVERIFY(mask.at(0, 0) == 1 && mask.at(7, 7) == 0);
  }
  void aDiscsAreaIsExact() {
    const auto one = read_svg(svg("<circle cx='50' cy='50' r='37'/>"));
    for (const int size : {64, 256, 1024}) {
      const double area = static_cast<double>(range_of(draw(*one, placed(*one, "stretched", 0), size).alpha).mean);
      QVERIFY2(std::abs(area - 3.14159265358979 * 0.37 * 0.37) < 3e-4, qPrintable(QString::number(area)));
    }
  }
  void brokenDrawingsAreRefusedInWords_data() {
    QTest::addColumn<QString>("text");
    QTest::newRow("empty") << "";
    QTest::newRow("no xml") << "hello";
    QTest::newRow("another root") << "<html/>";
    QTest::newRow("cut off") << "<svg><path d='M0 0";
    QTest::newRow("deep") << QString("<svg>") + QString("<g>").repeated(5000);
    QString laughs = "<svg xmlns:xlink='x'><defs><g id='a0'/>";
    for (int i = 1; i < 12; ++i)
      laughs +=
          QStringLiteral("<g id='a%1'>").arg(i) + QStringLiteral("<use href='#a%1'/>").arg(i - 1).repeated(10) + "</g>";
    QTest::newRow("uses of uses") << laughs + "</defs><use href='#a11'/></svg>";
    QTest::newRow("a use of itself") << "<svg><g id='a'><use href='#a'/><use href='#a'/></g></svg>";
  }
  void brokenDrawingsAreRefusedInWords() {
    QFETCH(QString, text);
    const auto r = read_svg(text.toStdString());
    QVERIFY(!r.ok());
    QVERIFY(!r.error().what.empty() && !r.error().mend.empty());
  }
  void wildNumbersDoNoHarm() {
    for (const char* inside :
         {"<rect width='1e300' height='nan'/>", "<path d='M1e308 1e308 L-1e308 5 Z'/>", "<circle r='1e30'/>",
          "<path d='M0 0 A1e-300 1e300 0 0 0 5 5'/>", "<path stroke='red' stroke-width='1e20' d='M0 0 L1 1'/>",
          "<path stroke='red' stroke-dasharray='1e-9 1e-9' d='M0 0 L100 100'/>", "<path d='M0 0 L5 X'/>",
          "<polygon points='1 2 3'/>"}) {
      const auto drawing = read_svg(svg(inside));
      QVERIFY(drawing.ok());
      const Drawn d = draw(*drawing, placed(*drawing, "whole", 0), 64);
      for (std::size_t i = 0; i < d.alpha.texels(); ++i)
        QVERIFY(std::isfinite(d.alpha.data()[i]) && d.alpha.data()[i] <= 1.0001f);
    }
  }

  // ---- lettering ----

  void lettersHaveTheirPlaces() {
    // In a face of even widths every letter takes the same room: n letters are n times as wide as one.
    const double one = set_text("H", "mono", 0, 1, 0).width, ten = set_text("HHHHHHHHHH", "mono", 0, 1, 0).width;
    QVERIFY(std::abs(ten - 10 * one) < 0.5);
    QVERIFY(set_text("AV", "regular", 0, 1, 0).width <
            set_text("A", "regular", 0, 1, 0).width + set_text("V", "regular", 0, 1, 0).width);  // kerned
    QCOMPARE(set_text("a\nb\nc", "bold", 0, 1, 0).shapes.size(), std::size_t{3});
    const Drawing d = set_text("ill\nMMM", "bold", 1, 1, 0);
    QVERIFY(d.shapes[0].to_drawing.e > 0 && d.shapes[1].to_drawing.e == 0);
  }
  void aLetterHasItsHole() {
    const Drawing d = set_text("O", "bold", 0.5, 1, 0);
    const Plane mask = draw(d, placed(d, "stretched", 0), 256).alpha;
    // Along its middle: nothing, stroke, hole, stroke, nothing.
    int changes = 0;
    for (int x = 1; x < 256; ++x) changes += (mask.at(x, 140) > 0.5f) != (mask.at(x - 1, 140) > 0.5f);
    QCOMPARE(changes, 4);
  }
  void strangeTextDoesNoHarm() {
    for (const char* text : {"", "\n\n", "\xff\xfe", "\u0628\u062a", "a\tb"})
      draw(set_text(text, "regular", 0.5, 1, 0), Affine{0.001, 0, 0, 0.001, 0, 0}, 64);
  }

  // ---- pictures ----

  void everyFormatIsRead_data() {
    QTest::addColumn<QString>("ending");
    QTest::addColumn<bool>("srgb");
    QTest::addColumn<double>("within");
    QTest::newRow("png") << "png" << true << 0.002;
    QTest::newRow("jpg") << "jpg" << true << 0.03;
    QTest::newRow("tif") << "tif" << true << 0.002;
    QTest::newRow("exr") << "exr" << false << 1e-6;
    QTest::newRow("hdr") << "hdr" << false << 0.01;
  }
  void everyFormatIsRead() {
    QFETCH(QString, ending);
    QFETCH(bool, srgb);
    QFETCH(double, within);
    QTemporaryDir dir;
    const std::string path = dir.filePath(QStringLiteral("a.") + ending).toStdString();
    std::vector<float> values(64 * 48 * 3);
    for (std::size_t i = 0; i < values.size(); ++i)
      values[i] = 0.2f + 0.5f * static_cast<float>(i % 3) / 3 + 0.2f * static_cast<float>(i / 3 % 64) / 64;
    OIIO::ImageSpec spec(64, 48, 3, srgb ? OIIO::TypeDesc::UINT8 : OIIO::TypeDesc::FLOAT);
    auto out = OIIO::ImageOutput::create(path);
    QVERIFY(out && out->open(path, spec) && out->write_image(OIIO::TypeDesc::FLOAT, values.data()) && out->close());
    std::ifstream file(path, std::ios::binary);
    const std::string bytes((std::istreambuf_iterator<char>(file)), {});
    const auto image = decode_image("a." + ending.toStdString(), bytes);
    QVERIFY2(image.ok(), image.ok() ? "" : image.error().text().c_str());
    QCOMPARE(image->width, 64);
    QCOMPARE(image->height, 48);
    QCOMPARE(image->srgb, srgb);
    for (std::size_t i = 0; i < values.size(); ++i)
      QVERIFY(std::abs(static_cast<double>(image->values[i]) - static_cast<double>(values[i])) < within + 0.002);
    // Damaged files are refused in words.
    const auto cut = decode_image("a." + ending.toStdString(), bytes.substr(0, bytes.size() / 8));
    if (!cut.ok()) QVERIFY(!cut.error().mend.empty());
  }
  void unknownKindsAreRefused() {
    QVERIFY(decode_image("a.txt", "hello").error().mend.find("PNG") != std::string::npos);
    QVERIFY(!decode_image("a.png", "hello").ok());
  }
  void resamplingKeepsMeansAndExactSizes() {
    std::vector<float> values(96 * 64);
    for (std::size_t i = 0; i < values.size(); ++i) values[i] = static_cast<float>((i * 37) % 101) / 101;
    double mean = 0;
    for (const float v : values) mean += static_cast<double>(v) / static_cast<double>(values.size());
    QVERIFY(std::abs(static_cast<double>(range_of(resampled(values.data(), 1, 96, 64, 32)).mean) - mean) < 0.01);
    const Plane same = bumpy(64, 1);
    QVERIFY(furthest(resampled(same.data(), 1, 64, 64, 64), same) < 1e-6);
  }

  // ---- made continuous: the promises of Heitz and Neyret 2018, section 3 ----

  static Plane gravel(int size) {  // uneven, skewed, no tile: a bright corner
    const auto noise =
        weave_alone(*catalogue().find("cellular_noise"), size, {}, {{"scale", 24.0}}).at("grey").strand[0];
    return painted(size, [&](double u, double v) {
      const float x = noise->at(static_cast<int>(u * size), static_cast<int>(v * size));
      return static_cast<double>(x * x);
    });
  }
  void theHistogramStays() {
    const Plane source = gravel(256);
    const std::vector<Plane> out = made_continuous(
        [&] {
          std::vector<Plane> one;
          one.push_back(source.clone());
          return one;
        }(),
        6, 3);
    std::vector<float> a(source.data(), source.data() + source.texels()),
        b(out[0].data(), out[0].data() + out[0].texels());
    std::sort(a.begin(), a.end());
    std::sort(b.begin(), b.end());
    for (const double share : {0.05, 0.25, 0.5, 0.75, 0.95}) {
      const auto k = static_cast<std::size_t>(share * static_cast<double>(a.size()));
      QVERIFY2(std::abs(a[k] - b[k]) < 0.06f, qPrintable(QStringLiteral("at %1: %2 and %3")
                                                             .arg(share)
                                                             .arg(static_cast<double>(a[k]))
                                                             .arg(static_cast<double>(b[k]))));
    }
  }
  void thereIsNoSeam() {
    Plane source = gravel(256);
    for (int y = 0; y < 256; ++y)
      for (int x = 0; x < 256; ++x)
        source.at(x, y) += static_cast<float>(x + y) / 256;  // a slope: a raw copy has a hard seam
    std::vector<Plane> in;
    in.push_back(source.clone());
    const Plane out = std::move(made_continuous(in, 6, 1)[0]);
    const auto steps = [](const Plane& p) {  // mean step over the seam against the mean step inside
      double seam = 0, inside = 0;
      for (int y = 0; y < 256; ++y) {
        seam += std::abs(static_cast<double>(p.at(255, y) - p.at(0, y))) +
                std::abs(static_cast<double>(p.at(y, 255) - p.at(y, 0)));
        for (int x = 0; x < 255; ++x)
          inside += (std::abs(static_cast<double>(p.at(x, y) - p.at(x + 1, y))) +
                     std::abs(static_cast<double>(p.at(y, x) - p.at(y, x + 1)))) /
                    255;
      }
      return seam / inside;
    };
    QVERIFY(steps(source) > 5);
    QVERIFY2(steps(out) < 1.4, qPrintable(QString::number(steps(out))));
  }
  void coloursKeepTheirKinship() {
    // Red and green rise together in the source; patches blended channel by channel would part them.
    std::vector<Plane> in;
    const Plane g = gravel(256);
    in.push_back(painted(256, [&](double u, double v) {
      return 0.2 + 0.7 * g.at(static_cast<int>(u * 256), static_cast<int>(v * 256));
    }));
    in.push_back(painted(256, [&](double u, double v) {
      return 0.1 + 0.5 * g.at(static_cast<int>(u * 256), static_cast<int>(v * 256));
    }));
    in.push_back(painted(256, [&](double u, double v) {
      return 0.6 - 0.4 * g.at(static_cast<int>(u * 256), static_cast<int>(v * 256));
    }));
    const auto out = made_continuous(in, 5, 9);
    for (std::size_t i = 0; i < out[0].texels(); ++i) {
      const double base = (static_cast<double>(out[0].data()[i]) - 0.2) / 0.7;
      QVERIFY(std::abs(static_cast<double>(out[1].data()[i]) - (0.1 + 0.5 * base)) < 0.01);
      QVERIFY(std::abs(static_cast<double>(out[2].data()[i]) - (0.6 - 0.4 * base)) < 0.01);
    }
  }

  // ---- files of a document and of a bolt ----

  static Material with_file(const std::string& name, const std::filesystem::path& folder) {
    Material m = edit::add_node(edit::empty_material(), catalogue(), "svg_drawing", "relief", 0, 0);
    m = edit::set_param(std::move(m), "svg_drawing", "file", name);
    m = edit::set_hem(std::move(m), "height", "svg_drawing.mask");
    auto root = std::make_shared<FileRoot>();
    root->folder = folder;
    m.files = std::move(root);
    return m;
  }
  static float mean(const Material& m, std::map<int, Error>* faults = nullptr) {
    const auto graph = flatten(m, catalogue());
    Weaver weaver(1 << 24);
    const auto woven = weaver.weave(*graph, {Want(graph->hem.at("height"))}, 64, Stop{});
    if (faults) *faults = woven->faults;
    return range_of(*woven->fields[0].strand[0]).mean;
  }
  static void write(const std::filesystem::path& path, const std::string& text) {
    std::ofstream(path, std::ios::binary) << text;
  }

  void aDrawingIsReadBesideTheDocumentAndAgainWhenItChanges() {
    QTemporaryDir dir;
    const std::filesystem::path folder = dir.path().toStdString();
    write(folder / "sign.svg", svg("<rect width='100' height='50'/>"));
    Material m = with_file("sign.svg", folder);
    m = edit::set_param(std::move(m), "svg_drawing", "margin", 0.0);
    QVERIFY(std::abs(mean(m) - 0.5f) < 1e-4f);
    const auto key = flatten(m, catalogue())->nodes[0].key;
    write(folder / "sign.svg", svg("<rect width='100' height='25'/>  "));
    QVERIFY(std::abs(mean(m) - 0.25f) < 1e-4f);
    QVERIFY(flatten(m, catalogue())->nodes[0].key != key);
  }
  void aMissingFileIsNamed() {
    std::map<int, Error> faults;
    mean(with_file("gone.svg", "/nowhere"), &faults);
    QCOMPARE(faults.size(), std::size_t{1});
    QVERIFY(faults.at(0).text().find("/nowhere/gone.svg") != std::string::npos);
  }
  void aBoltPacksItsFilesAndReadsNothingElse() {
    QTemporaryDir dir;
    const std::filesystem::path folder = dir.path().toStdString();
    write(folder / "sign.svg", svg("<rect width='100' height='50'/>"));
    Material m = with_file((folder / "sign.svg").string(), folder);
    m = edit::set_param(std::move(m), "svg_drawing", "margin", 0.0);
    QVERIFY(write_bolt(folder / "a.bolt", {m}).ok());
    std::filesystem::remove(folder / "sign.svg");
    const auto bolt = read_bolt(folder / "a.bolt");
    QVERIFY(bolt.ok());
    QCOMPARE(std::get<std::string>(bolt->material.node("svg_drawing")->params.at("file")),
             std::string("files/sign.svg"));
    QVERIFY(std::abs(mean(bolt->material) - 0.5f) < 1e-4f);
    // A stranger's bolt that names a file of this machine gets nothing.
    write(folder / "secret.svg", svg("<rect width='100' height='100'/>"));
    Material sly = bolt->material;
    sly = edit::set_param(std::move(sly), "svg_drawing", "file", (folder / "secret.svg").string());
    std::map<int, Error> faults;
    QCOMPARE(mean(sly, &faults), 0.0f);
    QVERIFY(faults.at(0).text().find("not packed") != std::string::npos);
    // A file that is not there keeps the bolt from being written, and is named.
    const auto refused = write_bolt(folder / "b.bolt", {with_file("gone.svg", folder)});
    QVERIFY(!refused.ok() && refused.error().text().find("gone.svg") != std::string::npos);
    QVERIFY(!std::filesystem::exists(folder / "b.bolt"));
    // What is no drawing is not passed on, whatever it is called.
    write(folder / "keys.svg", "-----BEGIN SECRET-----");
    const auto no_drawing = write_bolt(folder / "b.bolt", {with_file("keys.svg", folder)});
    QVERIFY(!no_drawing.ok() && no_drawing.error().text().find("keys.svg") != std::string::npos);
    QVERIFY(!std::filesystem::exists(folder / "b.bolt"));
  }
  // By an absolute name, by climbing out, or by a link: refused by check and at the node until it is allowed.
  void filesOutsideTheDocumentsFolderAreRefusedUntilAllowed_data() {
    QTest::addColumn<QString>("how");
    for (const char* how : {"absolute", "climbing", "link", "a folder that begins alike"}) QTest::newRow(how) << how;
  }
  void filesOutsideTheDocumentsFolderAreRefusedUntilAllowed() {
    QFETCH(QString, how);
    QTemporaryDir dir;
    const std::filesystem::path top = dir.path().toStdString(), folder = top / "mine", other = top / "mine too";
    std::filesystem::create_directories(folder);
    std::filesystem::create_directories(other);
    write(other / "sign.svg", svg("<rect width='100' height='50'/>"));
    std::filesystem::create_symlink(other / "sign.svg", folder / "link.svg");
    const std::string name = how == QStringLiteral("climbing") ? "../mine too/sign.svg"
                             : how == QStringLiteral("link")   ? "link.svg"
                                                               : (other / "sign.svg").string();
    Material m = with_file(name, folder);
    m = edit::set_param(std::move(m), "svg_drawing", "margin", 0.0);
    std::map<int, Error> faults;
    QCOMPARE(mean(m, &faults), 0.0f);
    QVERIFY(faults.at(0).text().find("outside the document's folder") != std::string::npos);
    QVERIFY(!all_faults(m, catalogue()).empty());
    QVERIFY(!write_bolt(top / "a.bolt", {m}).ok());
    allow_files(other);
    QVERIFY(all_faults(m, catalogue()).empty());
    QVERIFY(std::abs(mean(m) - 0.5f) < 1e-4f);
    QVERIFY(write_bolt(top / "a.bolt", {m}).ok());
  }
};

QTEST_GUILESS_MAIN(TestDrawings)
#include "tst_drawings.moc"
