// Sections packed into as many columns as the width holds: what does not fit beside the others stands under the
// shortest of them, so that there is one direction to scroll in.
#pragma once
#include <QLayout>
#include <vector>

namespace loom::app {

class PackedColumns : public QLayout {
 public:
  explicit PackedColumns(QWidget* parent) : QLayout(parent) {}
  ~PackedColumns() override;

  void addItem(QLayoutItem* item) override { items_.push_back(item); }
  int count() const override { return static_cast<int>(items_.size()); }
  QLayoutItem* itemAt(int index) const override {
    return index >= 0 && index < count() ? items_[static_cast<std::size_t>(index)] : nullptr;
  }
  QLayoutItem* takeAt(int index) override;
  Qt::Orientations expandingDirections() const override { return {}; }
  bool hasHeightForWidth() const override { return true; }
  int heightForWidth(int width) const override;
  QSize minimumSize() const override;
  QSize sizeHint() const override { return minimumSize(); }
  void setGeometry(const QRect& rect) override;

  static constexpr int kLeast = 216, kMost = 340, kGap = 20;  ///< of a column, and between two, in pixels
  static constexpr int kAbove = 2;                            ///< a section that stands under another

 private:
  std::vector<QRect> placesIn(int width) const;
  int leastColumn() const;
  int shown() const;  // of the items
  std::vector<QLayoutItem*> items_;
};

}  // namespace loom::app
