// The open document: its states, undo and redo, its file, and the autosave beside it.
#pragma once
#include <QObject>
#include <QString>
#include <QThreadPool>
#include <QTimer>
#include <vector>

#include "core/base/error.h"
#include "core/graph/material.h"
#include "core/plane/ledger.h"

namespace loom::app {

/// Every change is an edit from one material to the next. Nothing here evaluates anything.
class Document : public QObject {
  Q_OBJECT
 public:
  explicit Document(QObject* parent = nullptr);
  ~Document() override;

  const Material& material() const { return states_[at_].material; }
  const QString& path() const { return path_; }
  bool isEdited() const { return at_ != saved_; }
  bool isBolt() const { return path_.endsWith(QStringLiteral(".bolt")); }

  /// One undo step named for the person. Edits with the same non-empty `gesture` become one step until endGesture().
  void edit(const QString& name, Material next, const QString& gesture = {});
  void endGesture() { gesture_.clear(); }
  bool canUndo() const { return at_ > 0; }
  bool canRedo() const { return at_ + 1 < states_.size(); }
  QString undoName() const { return canUndo() ? states_[at_].name : QString(); }
  QString redoName() const { return canRedo() ? states_[at_ + 1].name : QString(); }
  void undo();
  void redo();

  void reset(Material material, const QString& path = {});
  Result<Done> open(const QString& path);
  /// A file's name as the document keeps it: beside the document or below it from there, so that both can move.
  std::string nameOf(const std::filesystem::path& file) const;
  Result<Done> save(const QString& path);

  /// The autosave of a path, or of an unsaved document.
  static QString autosavePath(const QString& path);
  /// Work that outlived a crash: an autosave newer than its file, whose program no longer runs.
  static QStringList orphans();
  /// Opens an autosave; the document then counts as edited and keeps the path that it was saved beside.
  Result<Done> recover(const QString& autosave);
  void autosaveNow(const QString& replaces = {});
  /// Waits until what is to be written beside the document has been.
  void finishWriting() { writer_.waitForDone(); }

 Q_SIGNALS:
  void changed();
  void trouble(const QString& message);

 private:
  Material movedTo(const QString& path) const;
  struct State {
    State(Material m, const QString& n);
    void set(Material m);
    Material material;
    QString name;
    Booked bytes;
  };
  void forgetOldest();
  void scheduleAutosave();
  void dropAutosave();
  std::vector<State> states_;
  std::size_t at_ = 0, saved_ = 0;
  QString path_, gesture_;
  QTimer autosave_;
  QThreadPool writer_;  // one thread: autosaves are written and removed in order, off the interface's thread
};

}  // namespace loom::app
