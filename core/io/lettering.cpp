// Letters as outlines: HarfBuzz places them, FreeType draws them.
#include <hb-ft.h>
#include <hb.h>

#include <algorithm>
#include <memory>
#include <mutex>

#include <ft2build.h>
#include FT_FREETYPE_H
#include FT_OUTLINE_H

#include "core/io/drawing.h"

extern "C" {
extern const unsigned char loom_face_regular[], loom_face_regular_end[], loom_face_semibold[], loom_face_semibold_end[],
    loom_face_bold[], loom_face_bold_end[], loom_face_mono[], loom_face_mono_end[];
}

namespace loom {
namespace {

constexpr double kUnits = 64;      // FreeType's fractions
constexpr unsigned kPixels = 256;  // outlines are taken at this size; they are not hinted
constexpr std::size_t kMostText = 4000;

struct Face {
  Face(FT_Library library, const unsigned char* from, const unsigned char* to) {
    if (FT_New_Memory_Face(library, from, static_cast<FT_Long>(to - from), 0, &face) != 0) return;
    FT_Set_Pixel_Sizes(face, 0, kPixels);
    font = hb_ft_font_create_referenced(face);
    hb_ft_font_set_load_flags(font, FT_LOAD_NO_HINTING);
  }
  FT_Face face = nullptr;
  hb_font_t* font = nullptr;
};

// FreeType's faces are not for several threads at once.
std::mutex& one_at_a_time() {
  static std::mutex mutex;
  return mutex;
}

const Face& face_of(std::string_view name) {
  static FT_Library library = [] {
    FT_Library l = nullptr;
    FT_Init_FreeType(&l);
    return l;
  }();
  static const Face regular(library, loom_face_regular, loom_face_regular_end),
      semibold(library, loom_face_semibold, loom_face_semibold_end), bold(library, loom_face_bold, loom_face_bold_end),
      mono(library, loom_face_mono, loom_face_mono_end);
  return name == "bold" ? bold : name == "semibold" ? semibold : name == "mono" ? mono : regular;
}

// Where a glyph's outline goes: the drawing's y runs down.
struct Pen {
  Path* path;
  double x, y;
  Spot at;
  bool open = false;
};

Spot spot_of(const Pen& pen, const FT_Vector* v) {
  return {pen.x + static_cast<double>(v->x) / kUnits, pen.y - static_cast<double>(v->y) / kUnits};
}

int move_to(const FT_Vector* to, void* user) {
  Pen& pen = *static_cast<Pen*>(user);
  if (pen.open) pen.path->close();
  pen.open = true;
  pen.path->move(pen.at = spot_of(pen, to));
  return 0;
}
int line_to(const FT_Vector* to, void* user) {
  Pen& pen = *static_cast<Pen*>(user);
  pen.path->line(pen.at = spot_of(pen, to));
  return 0;
}
int conic_to(const FT_Vector* by, const FT_Vector* to, void* user) {
  Pen& pen = *static_cast<Pen*>(user);
  const Spot q = spot_of(pen, by), p = spot_of(pen, to), from = pen.at;
  const auto towards = [](Spot a, Spot b) { return Spot{a.x + 2.0 / 3 * (b.x - a.x), a.y + 2.0 / 3 * (b.y - a.y)}; };
  pen.path->cubic(towards(from, q), towards(p, q), p);
  pen.at = p;
  return 0;
}
int cubic_to(const FT_Vector* a, const FT_Vector* b, const FT_Vector* to, void* user) {
  Pen& pen = *static_cast<Pen*>(user);
  pen.path->cubic(spot_of(pen, a), spot_of(pen, b), spot_of(pen, to));
  pen.at = spot_of(pen, to);
  return 0;
}

// Sets one line with its baseline at `y`; gives its width.
double set_line(const Face& face, std::string_view line, double y, double tracking, Path& path) {
  const std::unique_ptr<hb_buffer_t, void (*)(hb_buffer_t*)> buffer(hb_buffer_create(), hb_buffer_destroy);
  hb_buffer_add_utf8(buffer.get(), line.data(), static_cast<int>(line.size()), 0, static_cast<int>(line.size()));
  hb_buffer_guess_segment_properties(buffer.get());
  hb_shape(face.font, buffer.get(), nullptr, 0);
  unsigned count = 0;
  const hb_glyph_info_t* info = hb_buffer_get_glyph_infos(buffer.get(), &count);
  const hb_glyph_position_t* place = hb_buffer_get_glyph_positions(buffer.get(), &count);
  double x = 0;
  static const FT_Outline_Funcs kFunctions{move_to, line_to, conic_to, cubic_to, 0, 0};
  for (unsigned i = 0; i < count; ++i) {
    Pen pen{&path, x + place[i].x_offset / kUnits, y - place[i].y_offset / kUnits, {}, false};
    if (FT_Load_Glyph(face.face, info[i].codepoint, FT_LOAD_NO_HINTING | FT_LOAD_NO_BITMAP) == 0)
      FT_Outline_Decompose(&face.face->glyph->outline, &kFunctions, &pen);
    if (pen.open) path.close();
    x += place[i].x_advance / kUnits + tracking;
  }
  return std::max(0.0, x - (count ? tracking : 0));
}

}  // namespace

Drawing set_text(std::string_view text, std::string_view face_name, double align, double leading, double tracking) {
  const std::lock_guard lock(one_at_a_time());
  const Face& face = face_of(face_name);
  Drawing drawing;
  if (!face.face) return drawing;
  text = text.substr(0, kMostText);
  const double tall =
      static_cast<double>(face.face->size->metrics.ascender - face.face->size->metrics.descender) / kUnits;
  const double ascent = static_cast<double>(face.face->size->metrics.ascender) / kUnits,
               step = std::max(0.1, leading) * tall;
  std::vector<std::pair<Path, double>> lines;
  double widest = 0, y = ascent;
  while (true) {
    const auto end = std::min(text.find('\n'), text.size());
    lines.emplace_back();
    lines.back().second = set_line(face, text.substr(0, end), y, tracking * kPixels, lines.back().first);
    widest = std::max(widest, lines.back().second);
    if (end == text.size()) break;
    text = text.substr(end + 1);
    y += step;
  }
  for (auto& [path, wide] : lines) {
    Figure f;
    f.path = std::move(path);
    f.to_drawing.e = align * (widest - wide);
    f.fill.on = true;
    drawing.shapes.push_back(std::move(f));
  }
  drawing.width = std::max(widest, 1.0);
  drawing.height = tall + step * static_cast<double>(lines.size() - 1);
  return drawing;
}

}  // namespace loom
