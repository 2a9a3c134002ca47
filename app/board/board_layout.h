// Where everything on the board stands: lanes, tags, pegs, and the ways that threads take.
#pragma once
#include <QPainterPath>
#include <QPointF>
#include <QRectF>
#include <algorithm>
#include <map>
#include <string>
#include <unordered_map>
#include <vector>

#include "core/graph/material.h"
#include "core/graph/node_type.h"

namespace loom::app {

inline QString qs(const std::string& s) { return QString::fromStdString(s); }

/// A tag changes its form with zoom: whole, without its second line, or its picture alone.
enum class TagForm { whole, brief, picture };

struct LanePlace {
  std::string id;
  QRectF rect;
  int columns = 1;
  bool collapsed = false;
};
struct PegPlace {
  std::string node, peg;
  QPointF at;
  Kind kind = Kind::scalar;
  bool input = false, connected = false;
};
struct TagPlace {
  std::string node;
  NodePtr held;
  QRectF rect;
  std::vector<PegPlace> inputs, outputs;
  bool hidden = false;
};
/// A thread's way; `from` and `to` are NODE.PEG, or `to` is a hem slot. An alias has only its end. `corners` are those
/// of the way before they were rounded.
struct ThreadPlace {
  std::string from, to;
  Kind kind = Kind::scalar;
  QPainterPath path;
  bool toHem = false;
  bool converted = false;
  bool alias = false;
  std::vector<QPointF> guides{}, corners{};
};

// Tracks within a channel or gutter: threads of one output share a trunk; others lie beside each other where they
// overlap.
class ThreadTracks {
 public:
  static constexpr qreal kTrack = 7;  ///< between two of them
  int take(qreal from, qreal to, const std::string& trunk) {
    if (from > to) std::swap(from, to);
    for (Span& s : spans_)
      if (s.trunk == trunk) {
        s.from = std::min(s.from, from);
        s.to = std::max(s.to, to);
        return s.track;
      }
    for (int track = 0;; ++track) {
      const bool free = std::none_of(spans_.begin(), spans_.end(), [&](const Span& s) {
        return s.track == track && s.from < to + kTrack && from < s.to + kTrack;
      });
      if (!free) continue;
      spans_.push_back({from, to, track, trunk});
      return track;
    }
  }

 private:
  struct Span {
    qreal from, to;
    int track;
    std::string trunk;
  };
  std::vector<Span> spans_;
};

class BoardLayout {
 public:
  /// `bottom`: where the hem's pegs lie, in board coordinates; `hemPegs`: the x of each connected slot.
  void build(const Material& material, const Catalogue& catalogue, qreal zoom, qreal leastWidth, qreal bottom,
             const std::map<std::string, qreal>& hemPegs);

  /// The same material at another zoom or width.
  void scale(const Material& material, qreal zoom, qreal leastWidth, qreal bottom,
             const std::map<std::string, qreal>& hemPegs);

  /// The hem's threads anew: they alone depend on how far the board is scrolled.
  void routeHem(const Material& material, qreal bottom, const std::map<std::string, qreal>& hemPegs);

  TagForm form() const { return form_; }
  qreal zoom() const { return zoom_; }
  QSizeF size() const { return size_; }
  const std::vector<LanePlace>& lanes() const { return lanes_; }
  const std::vector<TagPlace>& tags() const { return tags_; }
  const std::vector<ThreadPlace>& threads() const { return threads_; }
  const TagPlace* tag(const std::string& node) const;
  const PegPlace* pegNear(QPointF at, qreal within) const;

  struct Cell {
    std::string lane;
    int column = 0, row = 0;
  };
  Cell cellAt(QPointF at) const;
  QRectF cellRect(const Cell& cell) const;
  QPointF pointOf(const Guide& guide) const;
  Guide guideAt(QPointF at) const;

  static constexpr qreal kLaneHead = 30, kCollapsedWidth = 40;

 private:
  void placeLanes(const Material& material, qreal leastWidth);
  void listTags(const Material& material, const Catalogue& catalogue);
  void placeTags();
  using Channels = std::map<int, ThreadTracks>;
  void routeThreads(const Material& material);
  std::vector<QPointF> ledWay(QPointF from, int fromRow, const std::vector<QPointF>& guides, QPointF to, int toRow,
                              const std::string& trunk);
  static const PegPlace* pegAt(const std::vector<PegPlace>& pegs, const std::string& peg);
  int rowOf(const TagPlace& tag) const;
  qreal channelY(Channels& channels, int row, qreal from, qreal to, const std::string& trunk) const;

  qreal zoom_ = 1, tagWidth_ = 138, tagHeight_ = 56, gutter_ = 24, channel_ = 48;
  TagForm form_ = TagForm::whole;
  QSizeF size_;
  std::vector<LanePlace> lanes_;
  std::vector<TagPlace> tags_;
  std::unordered_map<std::string, std::size_t> tagOf_;
  std::vector<ThreadPlace> threads_;
  std::size_t inner_ = 0;        // how many of them end in a peg; the hem's follow
  Channels channels_, gutters_;  // tracks taken: channels by the row above them, gutters by the place of their middle
};

}  // namespace loom::app
