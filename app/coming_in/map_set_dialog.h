// Maps that come in: what each file was taken for, corrected before anything is done, and where the set goes.
#pragma once
#include <QDialog>
#include <QStringList>

#include "app/base/hearer.h"
#include "app/engine/picture_maker.h"
#include "core/bolt/bring_in.h"

class QCheckBox;
class QComboBox;
class QGridLayout;
class QLabel;
class QLineEdit;
class QPushButton;

namespace loom::app {

/// What the board has to say to it.
struct MapSetBoard {
  QStringList sets{};       ///< on the board, which can be exchanged
  bool has_hem = true;      ///< the whole material is shown, not the inside of a group
  QStringList filled{};     ///< slots of the hem that hold something
  QString copies_to{};      ///< the folder into which files can be copied; empty: they cannot, or need not
  QString why_no_copies{};  ///< why not, where it is worth saying
};

class MapSetDialog : public QDialog {
  Q_OBJECT
 public:
  MapSetDialog(const ImportPlan& plan, const MapSetBoard& board, QWidget* parent);
  ~MapSetDialog() override;

  /// As corrected; of two rows for one slot the upper one counts.
  ImportPlan plan() const;
  BringIn how() const;
  int inPlaceOf() const;  ///< among the board's sets; -1: none, it comes in beside
  bool copies() const;
  bool isIdle() const;

 private:
  struct Row {
    ImportedMap map;  ///< without a slot: not used
    QLabel *picture, *told;
    QComboBox *slot, *channel, *green;
    QCheckBox* inverted;
    QPushButton* more;
  };
  void addRow(const ImportedMap& map, std::size_t at);
  void placeRow(std::size_t at);
  void corrected(Row* row);
  void measured(Row* row, const ImportedMap& map);
  void showRow(Row& row);
  void renew();
  QWidget* destination();
  QString toldOf(const Row& row) const;
  bool counts(const Row& row) const;
  void readPictures();

  std::string name_;
  MapSetBoard board_;
  std::vector<std::unique_ptr<Row>> rows_;
  QGridLayout* grid_;
  QLineEdit* nameLine_;
  QComboBox *where_, *set_;
  QCheckBox *transform_, *copy_;
  QLabel *preview_, *note_;
  QPushButton* take_;
  int asked_ = 0, measuring_ = 0;
  std::map<std::filesystem::path, QImage> pictures_;
  Hearer hearer_{this};
  PictureMaker maker_;
};

}  // namespace loom::app
