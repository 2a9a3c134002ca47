// Notes in Markdown, rendered. They may come from a stranger: nothing is loaded for them, and no link is followed.
#pragma once
#include <QTextBrowser>

namespace loom::app {

class NotesView : public QTextBrowser {
 public:
  explicit NotesView(QWidget* parent = nullptr) : QTextBrowser(parent) {
    setOpenLinks(false);
    setFrameShape(QFrame::NoFrame);
    setAccessibleName(tr("Notes"));
  }
  void showNotes(const QString& markdown) {
    document()->setMarkdown(markdown, QTextDocument::MarkdownFeatures(QTextDocument::MarkdownDialectGitHub) |
                                          QTextDocument::MarkdownNoHTML);
  }

 protected:
  QVariant loadResource(int, const QUrl&) override { return {}; }
};

}  // namespace loom::app
