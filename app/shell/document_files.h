// The document on disc: opened, saved, packed, recovered; and the files that its nodes read, watched for changes.
#pragma once
#include <QFileSystemWatcher>
#include <QList>
#include <QObject>
#include <QPointer>
#include <QString>

#include "app/engine/document.h"
#include "core/bolt/package.h"

class QMenu;

namespace loom::app {

class FittingWindow;
class Stock;

class DocumentFiles : public QObject {
  Q_OBJECT
 public:
  /// Questions and messages of the disc stand over `window`.
  DocumentFiles(Document& document, QWidget* window);
  /// Fittings that are still open go as well: nothing of theirs may work on when the program ends.
  ~DocumentFiles() override;

  /// A .loom here, a .bolt in a fitting. False, and a message, if it cannot be.
  bool open(const QString& path);
  /// Of a bolt, or of a material as it stands on disc; any number side by side.
  FittingWindow* openFitting(const QString& path);
  /// What fittings offer beside what they show.
  void offer(Stock* stock) { stock_ = stock; }
  void openDialogue();
  /// A bolt's graph in Weave, as a document that is not saved yet.
  void openGraph(const QString& bolt);
  bool newDocument();  ///< false: what is open is stayed with
  void offerRecovery();

  bool saveTo(const QString& path);
  bool save();
  bool saveAs();
  void saveAsBolt();
  bool writeBolt(const QString& path);
  void renameMaterial();
  /// Asks what becomes of unsaved work; false: it is stayed with.
  bool mayLeave();

  void listRecentIn(QMenu* menu);

  /// The name of a file beside the document or below it, from there, so that both can move.
  ParamValue besideDocument(const ParamValue& value) const;
  void allowChosen(const ParamValue& value);
  void watch();
  void reload();

 Q_SIGNALS:
  void opened();  ///< another document is there
  void begun();   ///< an empty one is there
  void changedOnDisc();
  void message(const QString& text);
  void stockroomWanted();

 private:
  std::optional<Bolt> read(const QString& bolt);
  void take(const Material& material);
  void noteRecent(const QString& path);
  void listRecent();
  void askForOutside();
  void takeBoltsFound();

  Document& document_;
  QWidget* window_;
  QFileSystemWatcher watched_;
  QMenu* recentMenu_ = nullptr;
  Stock* stock_ = nullptr;
  QList<QPointer<FittingWindow>> fittings_;
};

}  // namespace loom::app
