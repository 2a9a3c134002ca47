// How much room the drape and the loupe have: beside the board, over it, or a window of their own on another screen.
#pragma once
#include <QByteArray>
#include <QObject>
#include <map>
#include <vector>

class QSplitter;

namespace loom::app {

class Chip;

class ViewRoom : public QObject {
  Q_OBJECT
 public:
  enum class Place { beside, over, window };

  /// `columns` holds `bench`, what a view may cover, and `views`, the splitter of the views.
  ViewRoom(QSplitter& columns, std::vector<QWidget*> bench, QSplitter& views, QWidget* window);
  /// A view that is among those of `views`; `chip` moves it.
  void add(QWidget* view, const QString& name, Chip* chip);
  Place placeOf(QWidget* view) const;
  /// Whatever is over all else steps back first.
  void put(QWidget* view, Place place);
  /// Over the board, or back beside it.
  void toggleOver(QWidget* view) { put(view, placeOf(view) == Place::over ? Place::beside : Place::over); }
  /// All stand beside the board again.
  void bringBack();

 protected:
  bool eventFilter(QObject* watched, QEvent* e) override;

 private:
  struct View {
    QString name;
    Place place = Place::beside;
    int at = 0;                 // in the splitter, when it left that
    QWidget* window = nullptr;  // its own
    QByteArray geometry{};      // of that, as it was left
  };
  void leave(QWidget* view);
  void cover(QWidget* view);
  void openWindow(QWidget* view);
  QSplitter& columns_;
  std::vector<QWidget*> bench_;
  QSplitter& views_;
  QWidget* window_;
  std::map<QWidget*, View> all_;
  std::vector<QWidget*> hidden_;            // under what covers them
  QByteArray columnsBefore_, viewsBefore_;  // they were covered
  QByteArray whole_;                        // the splitter with all views in it
};

}  // namespace loom::app
