// Palettes after the picture of a weaver's bench; words on the picture grey are white.
#include "app/base/theme.h"

#include <QApplication>
#include <QFontDatabase>
#include <QFontMetricsF>
#include <QHash>
#include <QPalette>
#include <QStyle>
#include <QWidget>
#include <map>
#include <tuple>

namespace loom::app {
namespace {

// Text reads at 4.5:1 at least on every ground that it stands on, controls and threads at 3:1 (WCAG 2.2, 1.4.3 and
// 1.4.11).
Theme day() {
  return {QColor("#f1ede4"), QColor("#e4dfd3"), QColor("#fbf9f4"), QColor("#cbc4b4"), QColor("#2b2a28"),
          QColor("#5d584f"), QColor("#2e4a78"), QColor("#9e3b33"), QColor("#c08a1e"), QColor("#767676"),
          QColor("#7a560c"), QColor("#8a8375"), QColor("#7c766b"), QColor("#d6cebc"), false};
}
Theme nightShift() {
  return {QColor("#2a2825"), QColor("#211f1d"), QColor("#4b4741"), QColor("#5a554d"), QColor("#e9e4d9"),
          QColor("#c1b9ac"), QColor("#a8c2f0"), QColor("#f0a69d"), QColor("#e0b050"), QColor("#767676"),
          QColor("#e6b85c"), QColor("#a39d90"), QColor("#857f74"), QColor("#2f2c28"), true};
}
Theme& current() {
  static Theme now = day();
  return now;
}

}  // namespace

const Theme& theme() { return current(); }

QColor laneTint(int index) {
  static const QColor kDay[] = {QColor("#dddacf"), QColor("#d4dfd8"), QColor("#e4dacd"),
                                QColor("#dbd7de"), QColor("#d5dde2"), QColor("#e1dcd0")};
  static const QColor kNight[] = {QColor("#262421"), QColor("#212826"), QColor("#2a2521"),
                                  QColor("#262429"), QColor("#21262a"), QColor("#292722")};
  const auto i = static_cast<std::size_t>(((index % kLaneTints) + kLaneTints) % kLaneTints);
  return theme().night ? kNight[i] : kDay[i];
}

void setNight(bool night) {
  current() = night ? nightShift() : day();
  const Theme& t = theme();
  QPalette p;
  p.setColor(QPalette::Window, t.linen);
  p.setColor(QPalette::Base, t.paper);
  p.setColor(QPalette::AlternateBase, t.linen);
  p.setColor(QPalette::Button, t.paper);
  for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText}) p.setColor(role, t.ink);
  p.setColor(QPalette::PlaceholderText, t.mute);
  p.setColor(QPalette::Highlight, t.indigo);
  p.setColor(QPalette::HighlightedText, t.night ? QColor("#1c1b19") : QColor("#ffffff"));
  p.setColor(QPalette::ToolTipBase, t.paper);
  p.setColor(QPalette::ToolTipText, t.ink);
  QApplication::setPalette(p);
  qApp->setStyleSheet(styleSheet());
}

void installTheme() {
  for (const char* file : {"Inter-Regular.otf", "Inter-SemiBold.otf", "Inter-Bold.otf", "JetBrainsMono-Regular.ttf"})
    QFontDatabase::addApplicationFont(QStringLiteral(":/fonts/") + QLatin1String(file));
  QApplication::setStyle(QStringLiteral("Fusion"));
  QApplication::setFont(textFont(12));
  setNight(false);
}

namespace {

// Made once each: to find a font's engine takes longer than to draw a word with it.
const QFont& madeFont(const QString& family, int pixels, int weight) {
  static std::map<std::tuple<QString, int, int>, QFont> made;
  const auto [at, fresh] = made.try_emplace({family, pixels, weight}, family);
  if (fresh) {
    at->second.setPixelSize(pixels);
    at->second.setWeight(static_cast<QFont::Weight>(weight));
  }
  return at->second;
}

}  // namespace

QFont textFont(qreal pixels, int weight) { return madeFont(QStringLiteral("Inter"), qRound(pixels), weight); }
QFont monoFont(qreal pixels) { return madeFont(QStringLiteral("JetBrains Mono"), qRound(pixels), QFont::Normal); }

void setRole(QWidget* widget, const char* role) {
  if (widget->property("role").toString() == QLatin1String(role)) return;
  widget->setProperty("role", QLatin1String(role));
  widget->style()->unpolish(widget);
  widget->style()->polish(widget);
}

qreal advanceOf(const QFont& font, const QString& text) {
  static QHash<QPair<QString, quint64>, qreal> known;
  if (known.size() > 20000) known.clear();
  const quint64 face = static_cast<quint64>(font.pixelSize()) << 32 | static_cast<quint64>(font.weight()) << 16 |
                       static_cast<quint64>(font.stretch()) << 1 | (font.family() == QStringLiteral("Inter"));
  const auto at = known.constFind({text, face});
  return at != known.constEnd() ? *at : *known.insert({text, face}, QFontMetricsF(font).horizontalAdvance(text));
}

// In steps of two parts in a hundred: each is an engine of its own.
QFont fitted(QFont font, const QString& text, qreal width) {
  const qreal needed = advanceOf(font, text);
  if (needed > width) font.setStretch(std::max(86, static_cast<int>(50 * width / needed) * 2));
  return font;
}

QString styleSheet() {
  const Theme& t = theme();
  QString s = QStringLiteral(R"(
    QWidget { color: %ink; font-size: 12px; }
    QToolTip { background: %paper; color: %ink; border: 1px solid %line; padding: 4px; }
    QLineEdit, QPlainTextEdit { background: transparent; border: none; border-bottom: 1px solid %edge; padding: 1px 2px; selection-background-color: %indigo; }
    QLineEdit:focus, QPlainTextEdit:focus { border-bottom: 2px solid %indigo; background: %paper; }
    QComboBox { background: %paper; border: 1px solid %edge; border-radius: 3px; padding: 1px 4px; }
    QComboBox:focus { border: 1px solid %indigo; }
    QComboBox:disabled { background: transparent; color: %mute; }
    QComboBox::drop-down { border: none; width: 14px; }
    QComboBox::down-arrow { image: url(:/pictures/arrow.png); width: 10px; height: 7px; }
    QComboBox QAbstractItemView { background: %paper; border: 1px solid %line; selection-background-color: %indigo; }
    QPushButton { background: %paper; border: 1px solid %edge; border-radius: 4px; padding: 4px 12px; }
    QPushButton:focus { border: 1px solid %indigo; }
    QPushButton:disabled { color: %mute; background: %linen; }
    QPushButton[main="true"] { background: %indigo; color: %onindigo; border: none; font-weight: 600; padding: 7px 16px; }
    QPushButton[main="true"]:disabled { background: %line; color: %mute; }
    QPushButton[word="true"], QToolButton[word="true"] { background: transparent; border: none; color: %indigo; padding: 2px 4px; }
    QPushButton[word="true"]:hover, QPushButton[word="true"]:focus, QToolButton[word="true"]:hover { text-decoration: underline; }
    QPushButton[word="true"]:disabled { color: %mute; }
    QToolButton[role="state"] { color: %caution; font-weight: 600; font-size: 11px; padding: 0; }
    QPushButton[role="unfold"] { background: %board; border: none; border-radius: 3px; padding: 0 4px; text-align: left; }
    QPushButton[role="unfold"]:hover, QPushButton[role="unfold"]:focus { border: 1px solid %indigo; }
    QPushButton[role="section"] { background: transparent; border: none; padding: 0; text-align: left; font-weight: 600; }
    QPushButton[role="section"]:hover, QPushButton[role="section"]:focus { text-decoration: underline; }
    QPushButton[role="thread"] { background: transparent; border: none; padding: 0; text-align: left; color: %indigo; }
    QPushButton[role="thread"]:hover, QPushButton[role="thread"]:focus { text-decoration: underline; }
    QToolButton[word="true"]:checked { color: %ink; font-weight: 600; }
    QToolButton[role="workspace"] { border: 1px solid %line; border-radius: 4px; padding: 3px 14px; }
    QToolButton[role="workspace"]:checked { background: %linen; color: %ink; font-weight: 600; }
    QToolButton::menu-indicator { image: none; }
    QCheckBox { spacing: 6px; }
    QMenu { background: %paper; border: 1px solid %line; }
    QMenu::item { padding: 4px 22px; }
    QMenu::item:selected { background: %indigo; color: %onindigo; }
    QScrollBar:vertical { background: transparent; width: 10px; }
    QScrollBar:horizontal { background: transparent; height: 10px; }
    QScrollBar::handle { background: %line; border-radius: 4px; margin: 2px; min-height: 24px; min-width: 24px; }
    QScrollBar::add-line, QScrollBar::sub-line { height: 0; width: 0; }
    QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
    QSplitter::handle { background: %line; }
    QProgressBar { background: %line; border: none; border-radius: 2px; height: 5px; max-height: 5px; }
    QProgressBar::chunk { background: %indigo; border-radius: 2px; }
    QLabel[role="name"] { font-size: 14px; font-weight: 700; }
    QLabel[role="title"] { font-size: 13px; font-weight: 700; }
    QLabel[role="group"] { font-weight: 600; }
    QLabel[role="mute"] { color: %mute; }
    QLabel[role="caution"] { color: %caution; }
    QLabel[role="accent"] { color: %indigo; }
    QLabel[role="fault"] { color: %madder; font-size: 11px; }
    QLineEdit[role="mono"], QLabel[role="mono"] { font-family: 'JetBrains Mono'; font-size: 11px; }
    QWidget[role="bar"] { background: %paper; border-bottom: 1px solid %line; }
    QWidget[role="bar"] > * { border: none; }
    QWidget[role="strip"] { background: #666666; }
    QWidget[role="racks"] { background: %paper; }
    QToolButton[role="rack"] { border: none; font-size: 11px; padding: 4px 0; }
    QToolButton[role="rack"]:hover, QToolButton[role="rack"]:focus { color: %indigo; }
    QListWidget[role="plain"] { background: transparent; border: none; }
    QFrame[role="field"] { background: %linen; border: 1px solid %line; border-radius: 4px; }
    QFrame[role="field"] > QLabel { border: none; }
    QFrame[role="field"] > QLabel[role="drop"] { border: 1px dashed %mute; border-radius: 3px; }
    QPushButton[role="preset"] { padding: 0; border: 2px solid transparent; background: %picture; }
    QPushButton[role="preset"]:checked { border: 2px solid %indigo; }
    QPushButton[role="preset"]:focus { border: 2px dashed %indigo; }
    #addLine { background: %paper; border: 2px solid %indigo; border-radius: 5px; }
    QListWidget { background: %paper; border: 1px solid %line; outline: none; }
    QListWidget::item { padding: 3px 4px; border-left: 3px solid transparent; }
    QListWidget::item:selected { background: %board; color: %ink; border-left: 3px solid %indigo; }
    QScrollArea { border: none; background: transparent; }
  )");
  s.replace(QStringLiteral("%onindigo"), t.night ? QStringLiteral("#1c1b19") : QStringLiteral("#ffffff"));
  s.replace(QStringLiteral("%edge"), t.edge.name());
  s.replace(QStringLiteral("%caution"), t.caution.name())
      .replace(QStringLiteral("%madder"), t.madder.name())
      .replace(QStringLiteral("%picture"), t.picture.name());
  s.replace(QStringLiteral("%board"), t.board.name())
      .replace(QStringLiteral("%linen"), t.linen.name())
      .replace(QStringLiteral("%line"), t.line.name())
      .replace(QStringLiteral("%paper"), t.paper.name());
  s.replace(QStringLiteral("%indigo"), t.indigo.name())
      .replace(QStringLiteral("%mute"), t.mute.name())
      .replace(QStringLiteral("%ink"), t.ink.name());
  return s;
}

}  // namespace loom::app
