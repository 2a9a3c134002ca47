#include "app/board/board_painter.h"

#include <QHash>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/base/theme.h"
#include "app/board/gestures.h"
#include "core/graph/groups.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

// Cut with a mark only if a narrower font does not save it; draw with fitted() and the same width.
QString elided(const QFont& font, const QString& text, qreal width) {
  const QFont narrow = fitted(font, text, width);
  return advanceOf(narrow, text) <= width + 1 ? text
                                              : QFontMetricsF(narrow).elidedText(text, Qt::ElideRight, width + 1);
}

// A label on up to two lines of whole words; one that is longer than a line is cut with a mark, never divided.
QStringList twoLinesOf(const QFont& font, const QString& label, qreal width) {
  const auto fits = [&](const QString& s) { return advanceOf(fitted(font, s, width), s) <= width + 1; };
  if (fits(label)) return {label};
  const QStringList words = label.split(QLatin1Char(' '));
  QString first = words.front(), rest = words.mid(1).join(QLatin1Char(' '));
  if (!fits(first)) {
    first = elided(font, first, width);
  } else {
    for (int i = 1; i < words.size(); ++i) {
      const QString longer = words.mid(0, i + 1).join(QLatin1Char(' '));
      if (!fits(longer)) break;
      first = longer;
      rest = words.mid(i + 1).join(QLatin1Char(' '));
    }
  }
  return rest.isEmpty() ? QStringList{first} : QStringList{first, elided(font, rest, width)};
}

// To measure a label takes longer than to draw it, and most stay as they are.
QStringList twoLines(const QFont& font, const QString& label, qreal width) {
  static QHash<QString, QStringList> known;
  if (known.size() > 4000) known.clear();
  const QString key = QStringLiteral("%1 %2 ").arg(font.pixelSize()).arg(qRound(width * 4)) + label;
  const auto at = known.constFind(key);
  return at != known.constEnd() ? *at : *known.insert(key, twoLinesOf(font, label, width));
}

QColor threadInk(bool inked) { return inked ? theme().ink : theme().thread; }
QColor threadGround() { return theme().night ? QColor("#262421") : QColor("#dcdad3"); }

}  // namespace

// While nothing but the view moves, what is painted moves along and only the strips that come into sight are painted.
void BoardPainter::refreshScene() {
  const QSize view(v_.width(), std::max(1, v_.height())), pixels = view * pixelRatio_;
  if (scene_.size() != pixels || scene_.devicePixelRatio() != pixelRatio_) {
    scene_ = QPixmap(pixels);
    scene_.setDevicePixelRatio(pixelRatio_);
    stale_ = true;
  }
  const QPoint by = (sceneScroll_ - v_.scroll).toPoint();
  std::vector<QRect> fresh;
  if (stale_ || std::abs(by.x()) >= view.width() || std::abs(by.y()) >= view.height()) {
    fresh.push_back(QRect({0, 0}, view));
  } else {
    const QPoint moved = QPointF(QPointF(by) * pixelRatio_).toPoint();
    if (!by.isNull()) scene_.scroll(moved.x(), moved.y(), scene_.rect());
    if (by.x()) fresh.push_back(QRect(by.x() > 0 ? 0 : view.width() + by.x(), 0, std::abs(by.x()), view.height()));
    if (by.y()) fresh.push_back(QRect(0, by.y() > 0 ? 0 : view.height() + by.y(), view.width(), std::abs(by.y())));
  }
  sceneScroll_ = v_.scroll;
  stale_ = false;
  if (fresh.empty()) return;
  QPainter p(&scene_);
  p.setRenderHint(QPainter::Antialiasing);
  p.setRenderHint(QPainter::SmoothPixmapTransform);
  for (const QRect& r : fresh) {
    p.save();
    p.setClipRect(r);
    p.fillRect(r, theme().board);
    p.translate(-v_.scroll);
    paintScene(p, QRectF(r).translated(v_.scroll));
    p.restore();
  }
}

void BoardPainter::paintScene(QPainter& p, const QRectF& seen) {
  paintLanes(p);
  paintThreads(p, seen);
  const QRectF around = seen.adjusted(-48, -28, 48, 28);  // slips, badges and outlines stand out of their tags
  for (const TagPlace& t : v_.layout.tags())
    if (t.rect.intersects(around)) paintTag(p, t), paintVeil(p, t);
  for (const TagPlace& t : v_.layout.tags())
    if (!t.hidden && t.rect.intersects(around)) paintBadges(p, t);
}

void BoardPainter::paint(QPainter& p, const InHand& hand, qreal pixelRatio, const Gesture* gesture) {
  hand_ = hand;
  pixelRatio_ = pixelRatio;
  refreshScene();
  p.fillRect(QRect({0, 0}, v_.size), theme().board);
  p.drawPixmap(0, 0, scene_);
  p.setRenderHint(QPainter::Antialiasing);
  p.setRenderHint(QPainter::SmoothPixmapTransform);
  p.save();
  p.setClipRect(QRect(0, 0, v_.width(), v_.height()));
  p.translate(-v_.scroll);
  paintHemThreads(p);
  paintStages(p);
  for (const TagPlace& t : v_.layout.tags())
    if (const auto it = v_.faults.find(t.node); it != v_.faults.end()) paintFault(p, t, it->second);
  paintLaneHeads(p);
  if (gesture) gesture->paint(p);
  p.restore();
  paintBelow(p);
  paintMap(p);
  paintHem(p);
}

void BoardPainter::paintLanes(QPainter& p) {
  const qreal tall = std::max(v_.layout.size().height(), v_.scroll.y() + v_.size.height());
  for (const LanePlace& l : v_.layout.lanes()) {
    const Lane* lane = v_.material.lane(l.id);
    p.fillRect(QRectF(l.rect.x(), 0, l.rect.width(), tall), laneTint(lane->tint));
    p.setPen(QPen(theme().line, 1));
    p.drawLine(QPointF(l.rect.right(), 0), QPointF(l.rect.right(), tall));
  }
}

// A line across all lanes, the name on it at the right, where threads rarely run.
void BoardPainter::paintStages(QPainter& p) {
  p.setFont(textFont(11, QFont::DemiBold));
  for (const Stage& s : v_.material.stages) {
    const qreal y = v_.rowTop(s.row);
    p.setPen(QPen(theme().mute, 1, Qt::DashLine));
    p.drawLine(QPointF(0, y), QPointF(v_.layout.size().width(), y));
    const qreal wide = advanceOf(p.font(), qs(s.name)) + 12;
    const QRectF label(v_.scroll.x() + v_.width() - wide - 6, y + 1, wide, 16);
    p.fillRect(label, theme().board);
    p.setPen(theme().ink);
    p.drawText(label, Qt::AlignCenter, qs(s.name));
  }
}

// What is written beside a tag, and the letters of its marks.
void BoardPainter::paintBadges(QPainter& p, const TagPlace& t) {
  if (const auto note = v_.material.notes_on.find(t.node); note != v_.material.notes_on.end()) {
    p.setFont(textFont(11));
    const QRectF slip(t.rect.x() + 4, t.rect.bottom() + 6, t.rect.width() - 8, 17);
    p.fillRect(slip, theme().paper);
    p.fillRect(QRectF(slip.topLeft(), QSizeF(3, slip.height())), theme().weld);
    p.setPen(theme().ink);
    p.drawText(slip.adjusted(7, 0, -2, 0), Qt::AlignVCenter,
               QFontMetricsF(p.font()).elidedText(qs(note->second).section(QLatin1Char('\n'), 0, 0), Qt::ElideRight,
                                                  slip.width() - 9));
  }
  paintFollowed(p, t);
  if (v_.weaving == t.node) {  // at work
    p.setPen(QPen(theme().weld, 2, Qt::DashLine));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(t.rect.adjusted(-3, -3, 3, 3), 6, 6);
  }
  QString letters;
  for (const auto& [letter, at] : v_.material.marks)
    if (split_output(at).first == t.node) letters += qs(letter).toUpper();
  if (letters.isEmpty()) return;
  p.setFont(textFont(11, QFont::Bold));
  const qreal wide = std::max(16.0, advanceOf(p.font(), letters) + 8);
  const QRectF badge(t.rect.right() - wide + 5, t.rect.top() - 7, wide, 16);
  p.setPen(Qt::NoPen);
  p.setBrush(theme().indigo);
  p.drawRoundedRect(badge, 3, 3);
  p.setPen(theme().paper);
  p.drawText(badge, Qt::AlignCenter, letters);
}

// While a place is followed, what it is not made from recedes.
void BoardPainter::paintVeil(QPainter& p, const TagPlace& t) {
  if (v_.followed.empty() || std::any_of(t.outputs.begin(), t.outputs.end(), [&](const PegPlace& out) {
        return v_.followed.count(out.node + "." + out.peg) != 0;
      }))
    return;
  QColor veil = theme().board;
  veil.setAlpha(170);
  p.fillRect(t.rect.adjusted(-2, -4, 4, 4), veil);
}

// Its values stand beside the tags that it is made from.
void BoardPainter::paintFollowed(QPainter& p, const TagPlace& t) {
  if (v_.followed.empty()) return;
  QStringList lines;
  for (const PegPlace& out : t.outputs)
    if (const auto it = v_.followed.find(out.node + "." + out.peg); it != v_.followed.end()) lines << it->second;
  if (lines.isEmpty()) return;
  p.setFont(monoFont(11));
  const QFontMetricsF metrics(p.font());
  const QString text =
      metrics.elidedText(lines.join(QStringLiteral(" | ")), Qt::ElideRight, std::max(t.rect.width() + 24, 120.0));
  const qreal wide = metrics.horizontalAdvance(text) + 10;
  const QRectF slip(t.rect.center().x() - wide / 2, t.rect.bottom() + 5, wide, 17);
  p.setPen(QPen(theme().madder, 1));
  p.setBrush(theme().paper);
  p.drawRoundedRect(slip, 3, 3);
  p.setPen(theme().ink);
  p.drawText(slip, Qt::AlignCenter, text);
}

// Heads stay in sight: they are painted over what scrolls below them.
void BoardPainter::paintLaneHeads(QPainter& p) {
  for (const LanePlace& l : v_.layout.lanes()) {
    const Lane* lane = v_.material.lane(l.id);
    if (!l.collapsed)
      p.fillRect(QRectF(l.rect.x(), v_.scroll.y(), l.rect.width() - 1, BoardLayout::kLaneHead - 2),
                 laneTint(lane->tint));
    int count = 0;
    for (const NodePtr& n : v_.material.nodes) count += n->lane == l.id;
    p.setFont(textFont(13, QFont::Bold));
    p.setPen(v_.cell.lane == l.id ? theme().indigo : theme().ink);
    const QString number = count == 1 ? tr("1 node") : tr("%1 nodes").arg(count);
    if (l.collapsed) {
      p.save();
      p.translate(l.rect.center().x() + 5, BoardLayout::kLaneHead + 4 + v_.scroll.y());
      p.rotate(90);
      p.drawText(QPointF(0, 0), qs(lane->name) + QStringLiteral("  ") + number);
      p.restore();
    } else {
      const qreal y = v_.scroll.y();
      const qreal named = advanceOf(p.font(), qs(lane->name));
      const bool roomy = named + 90 < l.rect.width();  // a narrow lane keeps its name and leaves the count out
      p.drawText(QRectF(l.rect.x() + 14, y + 4, l.rect.width() - 20, 24), Qt::AlignVCenter,
                 elided(p.font(), qs(lane->name), l.rect.width() - 20));
      p.setFont(textFont(11));
      p.setPen(theme().mute);
      if (roomy)
        p.drawText(QRectF(l.rect.x(), y + 4, l.rect.width() - 12, 24), Qt::AlignVCenter | Qt::AlignRight, number);
      if (v_.cell.lane == l.id) p.fillRect(QRectF(l.rect.x(), y, l.rect.width(), 2), theme().indigo);
    }
  }
}

// A gap where threads cross, and as many lines as the data has strands.
ThreadLook BoardPainter::lookOf(Kind kind, bool inked) const {
  const QColor ink = threadInk(inked), ground = threadGround();
  const int strands = kind == Kind::regions ? 0 : kind == Kind::set ? 5 : std::max(strand_count(kind), 1);
  const qreal k = inked ? 1.15 : 1;
  ThreadLook look{{{ground, 2.0 * std::max(strands, 1) + 2.5}}, strands * 4 + inked * 2 + theme().night};
  switch (strands) {
    case 0:
      break;
    case 1:
      look.layers.push_back({ink, 1.5 * k});
      break;
    case 2:
      look.layers.insert(look.layers.end(), {{ink, 4.4 * k}, {ground, 2.0 * k}});
      break;
    case 3:
      look.layers.insert(look.layers.end(), {{ink, 7.0 * k}, {ground, 4.8 * k}, {ink, 1.2 * k}});
      break;
    case 4:
      look.layers.insert(look.layers.end(), {{ink, 9.0 * k}, {ground, 7.0 * k}, {ink, 3.6 * k}, {ground, 1.6 * k}});
      break;
    default:
      look.layers.push_back({ink, 7});
      break;
  }
  return look;
}

void BoardPainter::paintThread(QPainter& p, const ThreadPlace& t, bool inked, const QRectF& seen) {
  const ThreadLook look = lookOf(t.kind, inked);
  if (!brush_.paint(p, t.corners, look, seen))
    for (const auto& layer : look.layers)
      p.strokePath(t.path, QPen(layer.colour, layer.width, Qt::SolidLine, Qt::FlatCap, Qt::MiterJoin));
  if (t.kind == Kind::regions) {  // beads and dashes are counted from the beginning
    QPen beads(threadInk(inked), 3.6, Qt::CustomDashLine, Qt::RoundCap);
    beads.setDashPattern({0.01, 1.7});
    p.strokePath(t.path, beads);
  } else if (t.kind == Kind::set) {
    p.strokePath(t.path, QPen(threadGround(), 3, Qt::DashLine, Qt::FlatCap));
  }
  if (t.alias) {  // taken by its name: the name stands where the line would come from
    const auto [node, peg] = split_output(t.from);
    const Node* n = v_.material.node(node);
    p.setFont(textFont(11));
    const QString name = QFontMetricsF(p.font()).elidedText(n ? qs(label_of(v_.material, catalogue(), *n)) : qs(t.from),
                                                            Qt::ElideRight, 110);
    const QRectF box(t.path.pointAtPercent(0) - QPointF(advanceOf(p.font(), name) / 2 + 4, 15),
                     QSizeF(advanceOf(p.font(), name) + 8, 15));
    p.fillRect(box, theme().paper);
    p.setPen(inked ? theme().indigo : theme().ink);
    p.drawText(box, Qt::AlignCenter, name);
  }
  if (t.converted && inked) {  // the data changes its kind in this peg
    const QPointF end = t.path.pointAtPercent(1);
    p.setFont(textFont(11));
    p.setPen(theme().mute);
    p.drawText(end + QPointF(7, -8), QString::fromUtf8(kind_name(t.kind).data()) + tr(", converted"));
  }
}

bool BoardPainter::isTouched(const ThreadPlace& t) const {
  return v_.isSelected(split_output(t.from).first) ||
         (t.toHem ? t.to == v_.slotFocus : v_.isSelected(split_output(t.to).first));
}

void BoardPainter::paintThreads(QPainter& p, const QRectF& seen) {
  std::vector<const ThreadPlace*> inked, shown;
  for (const ThreadPlace& t : v_.layout.threads()) {
    if (t.toHem) continue;
    const qreal aside = t.alias || t.converted ? 130 : 8;  // with what is written beside it
    if (!t.path.boundingRect().adjusted(-aside, -aside, aside, aside).intersects(seen)) continue;
    shown.push_back(&t);
    if (isTouched(t))
      inked.push_back(&t);
    else
      paintThread(p, t, false, seen);
  }
  for (const ThreadPlace* t : inked) paintThread(p, *t, true, seen);
  paintGuides(p, shown);
  // The way back of a followed place, over all.
  for (const ThreadPlace* t : shown) {
    if (std::find(v_.followedPath.begin(), v_.followedPath.end(), t->to) == v_.followedPath.end()) continue;
    p.strokePath(t->path, QPen(theme().paper, 7, Qt::SolidLine, Qt::RoundCap));
    p.strokePath(t->path, QPen(theme().madder, 3.5, Qt::SolidLine, Qt::RoundCap));
  }
}

// They end in the hem, which stays while the board moves: their way is another after every step. The band over the hem
// is theirs alone, so that they do not run over tags.
void BoardPainter::paintHemThreads(QPainter& p) {
  const auto& threads = v_.layout.threads();
  const qreal hem = v_.scroll.y() + v_.height();
  if (std::any_of(threads.begin(), threads.end(),
                  [&](const ThreadPlace& t) { return t.toHem && t.corners[2].y() < hem; }))
    for (const LanePlace& l : v_.layout.lanes())
      p.fillRect(QRectF(l.rect.x(), hem - BoardView::kHemBand, l.rect.width() - 1, BoardView::kHemBand),
                 laneTint(v_.material.lane(l.id)->tint));
  for (const bool inked : {false, true})
    for (const ThreadPlace& t : v_.layout.threads())
      if (t.toHem && isTouched(t) == inked) paintThread(p, t, inked, QRectF(v_.scroll, v_.size));
}

// A picture at the size of its tag, scaled once.
const QPixmap& BoardPainter::smallPicture(const QImage& image, qreal side) {
  const int pixels = std::max(1, qRound(side * pixelRatio_));
  if (smallPictures_.size() > 2000) smallPictures_.clear();
  QPixmap& small = smallPictures_[{image.cacheKey(), pixels}];
  if (small.isNull()) {
    small = QPixmap::fromImage(image.scaled(pixels, pixels, Qt::IgnoreAspectRatio, Qt::SmoothTransformation));
    small.setDevicePixelRatio(pixelRatio_);
  }
  return small;
}

QString BoardPainter::secondLine(const Node& n) const {
  if (n.bypass) return tr("bypassed");
  if (n.type == kComesIn) return tr("input");
  if (n.bolt) return tr("bolt %1").arg(qs(n.bolt->version));
  if (const Group* g = v_.material.group_of(n)) {
    const int uses = edit::uses_of(v_.material, g->id);
    return uses > 1 ? tr("%1 nodes, used %2 times").arg(g->nodes.size()).arg(uses)
                    : tr("%n nodes", nullptr, static_cast<int>(g->nodes.size()));
  }
  const NodeType* type = catalogue().find(n.type);
  if (!type) return {};
  if (!n.name.empty()) return qs(type->label);
  for (const Parameter& p : type->parameters) {
    const auto it = n.params.find(p.id);
    const ParamValue& v = it == n.params.end() ? p.initial : it->second;
    if (p.names != NameOf::nothing)
      if (const auto* w = std::get_if<std::string>(&v); w && !w->empty()) return qs(*w);
    if (p.kind == ParameterKind::choice)
      if (const auto* w = std::get_if<std::string>(&v)) return qs(*w).replace(QLatin1Char('_'), QLatin1Char(' '));
    if (p.kind == ParameterKind::formula)
      if (const auto* w = std::get_if<std::string>(&v)) return qs(*w);
    if (const auto* d = std::get_if<double>(&v); d && p.kind != ParameterKind::seed && p.acts.formula.empty())
      return qs(p.label).toLower() + QLatin1Char(' ') + QString::number(*d, 'g', 3);
  }
  return {};
}

void BoardPainter::paintTag(QPainter& p, const TagPlace& t) {
  const Node* n = t.held.get();
  const bool selected = v_.isSelected(t.node), fault = v_.faults.count(t.node) != 0;
  if (t.hidden) {
    p.setPen(Qt::NoPen);
    p.setBrush(selected ? theme().indigo : theme().line);
    p.drawRoundedRect(t.rect.adjusted(2, 2, -2, -2), 3, 3);
    return;
  }
  const TagForm form = v_.layout.form();
  p.setBrush(theme().paper);
  p.setPen(QPen(fault ? theme().madder : selected ? theme().indigo : theme().line, selected || fault ? 2 : 1));
  if (n->is_group()) p.drawRoundedRect(t.rect.translated(3, 3), 4, 4);
  p.drawRoundedRect(t.rect, 4, 4);
  const std::string shown = selected && !v_.selected.empty() && v_.selected.back() == t.node ? v_.focusedOutput()
                            : t.outputs.empty()                                              ? std::string()
                                                : t.node + "." + t.outputs[0].peg;
  const qreal side =
      form == TagForm::picture ? t.rect.height() - 6 : t.rect.height() - (form == TagForm::whole ? 8 : 6);
  const QRectF picture(t.rect.x() + (form == TagForm::picture ? 3 : 4), t.rect.y() + (t.rect.height() - side) / 2, side,
                       side);
  const QImage image = v_.pictureFor(shown);
  if (image.isNull())
    p.fillRect(picture, theme().picture);
  else
    p.drawPixmap(picture.topLeft(), smallPicture(image, side));
  if (n->bypass) {
    p.setPen(QPen(theme().mute, 2));
    p.drawLine(t.rect.topLeft() + QPointF(3, 3), t.rect.bottomRight() - QPointF(3, 3));
  }
  if (form != TagForm::picture) {
    const QRectF text(picture.right() + 6, t.rect.y(), t.rect.right() - picture.right() - 10, t.rect.height());
    const QString label = qs(label_of(v_.material, catalogue(), *n));
    p.setFont(textFont(form == TagForm::whole ? std::max(11.0, 12 * v_.zoom) : 11, QFont::DemiBold));
    p.setPen(fault ? theme().madder : n->bypass ? theme().mute : theme().ink);
    if (form == TagForm::whole) {
      const QString name = elided(p.font(), label, text.width());
      p.setFont(fitted(p.font(), label, text.width()));
      const QString second = secondLine(*n);
      if (second.isEmpty() && name != label) {  // its name has both lines
        const QStringList lines = twoLines(textFont(11, QFont::DemiBold), label, text.width() + 1);
        p.setFont(textFont(11, QFont::DemiBold));
        p.drawText(text.adjusted(0, 0, 6, 0), Qt::AlignVCenter | Qt::AlignLeft, lines.join(QLatin1Char('\n')));
      } else {
        p.drawText(QRectF(text.x(), text.y() + 4, text.width() + 2, text.height() / 2 - 4),
                   Qt::AlignBottom | Qt::AlignLeft, name);
        p.setFont(textFont(11));
        p.setPen(theme().mute);
        const QString fits = elided(p.font(), second, text.width());
        p.setFont(fitted(p.font(), second, text.width()));
        p.drawText(QRectF(text.x(), text.center().y() + 2, text.width() + 2, text.height() / 2 - 4),
                   Qt::AlignTop | Qt::AlignLeft, fits);
      }
    } else {
      const QStringList lines = twoLines(p.font(), label, text.width() + 1);
      QString longest = lines.front();
      for (const QString& line : lines)
        if (advanceOf(p.font(), line) > advanceOf(p.font(), longest)) longest = line;
      p.setFont(fitted(p.font(), longest, text.width() + 1));
      p.drawText(text.adjusted(0, 0, 6, 0), Qt::AlignVCenter | Qt::AlignLeft, lines.join(QLatin1Char('\n')));
    }
  }
  const auto peg = [&](const PegPlace& g) {
    const qreal wide = std::max(5.0, 10 * std::min(v_.zoom, 1.0)), tall = 5;
    const QRectF r(g.at.x() - wide / 2, g.input ? g.at.y() - tall + 1 : g.at.y() - 1, wide, tall);
    const bool aim = hand_.target == &g;
    p.setPen(QPen(aim ? theme().indigo : theme().ink, aim ? 3 : 1));
    p.setBrush(g.connected || !g.input ? theme().ink : theme().paper);
    if (!g.input && shown == g.node + "." + g.peg && selected) p.setBrush(theme().indigo);
    p.drawRect(r);
  };
  for (const PegPlace& g : t.inputs)
    // Rarely used pegs stay quiet until their node is in hand.
    if (g.connected || selected || hand_.thread || t.inputs.size() <= 4) peg(g);
  for (const PegPlace& g : t.outputs)
    if (g.connected || selected || t.outputs.size() <= 2) peg(g);
}

void BoardPainter::paintFault(QPainter& p, const TagPlace& t, const Error& e) {
  const QString text = qs(e.where) + QStringLiteral(": ") + qs(e.what) + QStringLiteral("\n") + qs(e.mend) +
                       tr(".\nThe last good result stays.");
  p.setFont(textFont(11));
  const QRectF box = QFontMetricsF(p.font())
                         .boundingRect(QRectF(t.rect.x() + 8, t.rect.bottom() + 8, 220, 200), Qt::TextWordWrap, text)
                         .adjusted(-8, -6, 8, 6);
  p.fillRect(box, theme().paper);
  p.fillRect(QRectF(box.topLeft(), QSizeF(3, box.height())), theme().madder);
  p.setPen(theme().madder);
  p.drawText(box.adjusted(8, 6, -8, -6), Qt::TextWordWrap, text);
}

void BoardPainter::paintHem(QPainter& p) {
  const QRect bar(0, v_.height(), v_.width(), BoardView::kHemHeight);
  p.fillRect(bar, theme().hem);
  p.fillRect(QRect(0, bar.top(), v_.width(), 2), theme().ink);
  p.setPen(theme().ink);
  p.setFont(textFont(11, QFont::DemiBold));
  p.drawText(QRectF(10, bar.top() + 8, BoardView::kHemHead - 12, 16), Qt::AlignVCenter,
             v_.material.inside ? tr("Group") : tr("Hem"));
  p.setPen(v_.hemOf.isEmpty() ? theme().mute : theme().indigo);
  p.setFont(textFont(11));
  p.drawText(QRectF(10, bar.top() + 23, BoardView::kHemHead - 8, 16), Qt::AlignVCenter,
             v_.hemOf.isEmpty() ? tr("(outputs)") : elided(p.font(), v_.hemOf, BoardView::kHemHead - 12));
  for (const auto& [id, label] : v_.hemSlots()) {
    const QRect r = v_.slotRect(id);
    const bool threaded = v_.material.hem.count(id) != 0, typed = !threaded && v_.material.hem_values.count(id) != 0,
               filled = threaded || typed, focused = v_.slotFocus == id || hand_.slot == id;
    const QRect picture(r.x() + 6, r.y() + 11, BoardView::kSlotPicture, BoardView::kSlotPicture);
    const QImage small = !filled                    ? QImage()
                         : v_.material.inside       ? v_.pictureFor(v_.material.hem.at(id))
                         : v_.hemPictures.count(id) ? v_.hemPictures.at(id)
                                                    : QImage();
    if (!small.isNull())
      p.drawImage(picture, small);
    else {
      p.setPen(QPen(theme().mute, 1, Qt::DashLine));
      p.setBrush(Qt::NoBrush);
      p.drawRect(picture);
    }
    if (focused) {
      p.setPen(QPen(theme().indigo, 2));
      p.setBrush(Qt::NoBrush);
      p.drawRoundedRect(QRectF(r).adjusted(1, 6, -1, -3), 4, 4);
    }
    p.setPen(QPen(theme().ink, 1));
    p.setBrush(threaded ? theme().ink : theme().paper);
    p.drawRect(QRectF(r.x() + BoardView::kSlotPeg - 5, bar.top() - 2, 10, 5));
    p.setFont(textFont(11, QFont::DemiBold));
    p.setPen(theme().ink);
    const qreal room = r.right() - picture.right() - 7;
    const QString name = elided(p.font(), label, room);
    p.setFont(fitted(p.font(), label, room));
    p.drawText(QRectF(picture.right() + 5, r.y() + 8, room + 2, 16), Qt::AlignVCenter, name);
    const QString from =
        v_.slotsOnSurface.count(id) ? tr("on shape")
        : threaded ? qs(split_output(v_.material.hem.at(id)).second).replace(QLatin1Char('_'), QLatin1Char(' '))
        : typed    ? tr("a value")
                   : tr("empty");
    p.setPen(theme().mute);
    p.setFont(fitted(textFont(11), from, room));
    p.drawText(QRectF(picture.right() + 5, r.y() + 23, room + 2, 16), Qt::AlignVCenter,
               elided(textFont(11), from, room));
  }
}

// What lies under the hem is told where it lies.
void BoardPainter::paintBelow(QPainter& p) {
  const auto below = v_.below();
  if (below.empty()) return;
  p.setFont(textFont(11, QFont::DemiBold));
  const auto& lanes = v_.layout.lanes();
  qreal end = v_.width() - 4;  // from the right, so that none covers another
  for (auto l = lanes.rbegin(); l != lanes.rend(); ++l) {
    const auto count = below.find(l->id);
    if (count == below.end()) continue;
    const QString text = tr("%n below", nullptr, count->second) + QStringLiteral(" \u2193");
    const qreal width = advanceOf(p.font(), text) + 16,
                left = std::min(std::max(l->rect.center().x() - v_.scroll.x() - width / 2, 4.0), end - width);
    const QRectF chip(left, v_.height() - 24, width, 18);
    end = left - 4;
    p.setPen(QPen(theme().line, 1));
    p.setBrush(theme().paper);
    p.drawRoundedRect(chip, 4, 4);
    p.setPen(theme().ink);
    p.drawText(chip, Qt::AlignCenter, text);
  }
}

void BoardPainter::paintMap(QPainter& p) {
  const QRectF area = v_.mapArea();
  if (area.isEmpty()) return;
  const qreal k = area.width() / v_.layout.size().width();
  QColor ground = theme().paper;
  ground.setAlpha(225);
  p.setPen(QPen(theme().line, 1));
  p.setBrush(ground);
  p.drawRect(area.adjusted(-3, -3, 3, 3));
  p.setPen(Qt::NoPen);
  for (const TagPlace& t : v_.layout.tags()) {
    p.setBrush(v_.isSelected(t.node) ? theme().indigo : v_.faults.count(t.node) ? theme().madder : theme().mute);
    p.drawRect(QRectF(area.topLeft() + t.rect.topLeft() * k, t.rect.size() * k));
  }
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(theme().indigo, 1.5));
  p.drawRect(QRectF(area.topLeft() + v_.scroll * k, QSizeF(std::min<qreal>(v_.width(), v_.layout.size().width()),
                                                           std::min<qreal>(v_.height(), v_.layout.size().height())) *
                                                        k));
}

void BoardPainter::paintGuides(QPainter& p, const std::vector<const ThreadPlace*>& shown) {
  const GuideStop* hand = hand_.guide ? &*hand_.guide : nullptr;
  const auto square = [&p](QPointF at, qreal half) {
    p.drawRect(QRectF(at - QPointF(half, half), QSizeF(2 * half, 2 * half)));
  };
  for (const ThreadPlace* t : shown) {
    const bool led = hand && hand->peg == t->to;
    for (std::size_t i = 0; i < t->guides.size(); ++i) {
      const bool at = led && hand->guide == i;
      p.setPen(QPen(isTouched(*t) ? theme().indigo : theme().mute, 1.4));
      p.setBrush(at ? theme().indigo : theme().paper);
      square(t->guides[i], at ? 5 : 3.5);
    }
    if (!led || hand->guide) continue;
    p.setPen(QPen(theme().indigo, 1.4, Qt::DotLine));  // where its first one will be
    p.setBrush(theme().paper);
    square(t->path.pointAtPercent(0.5), 5);
  }
}

}  // namespace loom::app
