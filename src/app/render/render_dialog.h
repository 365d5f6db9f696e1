#pragma once
// Rendering from the window: what will be written and where, then progress, and the way to the result.

#include <QDialog>
#include <memory>
#include <thread>

#include "app/ask/ask.h"
#include "app/mailbox/newest.h"
#include "core/engine/render_job.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QProgressBar;
class QPushButton;
class QSpinBox;
class QStackedWidget;

namespace molten {

/// Where something was rendered to, and as what kind of file.
struct RenderPlace {
  QString path;
  QString codec;  ///< an id; empty: by the path's ending
};

class RenderDialog : public QDialog {
  Q_OBJECT

 public:
  /// `suggested`: a path to begin with if the project names none. `ofMap`: likewise for time maps. `ask`: whether what
  /// is there is to be replaced; none: it is.
  RenderDialog(std::shared_ptr<const Footage> footage, const Project& project, const QString& suggested,
               const RenderPlace& ofMap, std::size_t memoryBytes, Ask ask, QWidget* parent = nullptr);
  ~RenderDialog() override;
  /// From the click to the end of the render.
  bool running() const { return running_ || beginsSoon_; }

 signals:
  void begun();
  void settingsChosen(const OutputSettings& output);  ///< of pictures
  void mapPlaceChosen(const RenderPlace& place);
  void finished(bool written);

 protected:
  void closeEvent(QCloseEvent* event) override;
  void reject() override;

 private:
  void buildForm(const OutputSettings& output, const QString& suggested);
  void makeFields(const OutputSettings& output, const QString& suggested);
  void chooseKind(const OutputSettings& output);
  void buildProgress();
  void turnTo(int page);
  void codecChosen();
  void whatChosen();
  bool isMap() const;
  RenderPlace place() const;
  bool mayReplace(const RenderOutline& outline);
  void choosePlace();
  void refresh();
  void outlined(const Result<RenderOutline>& outline);
  Size pictureSize() const;
  bool isOnePicture() const;
  OutputSettings chosen() const;
  RenderSettings settings() const;
  void beginSoon();
  void begin(const RenderOutline& outline);
  void ended(const Result<RenderOutline>& result);
  void progressed(const RenderProgress& progress);

  std::shared_ptr<const Footage> footage_;
  Project project_;
  std::size_t memory_;
  Ask ask_;
  RenderPlace ofPictures_, ofMap_;  ///< of what is not chosen just now, as it was left
  bool mapChosen_ = false;
  QStackedWidget* pages_;
  QLineEdit* path_;
  QComboBox *what_, *codec_, *size_;
  QSpinBox* quality_;
  QLabel *qualityHelp_, *summary_, *notes_, *state_, *detail_;
  QProgressBar* bar_;
  QPushButton *render_, *cancel_, *openFolder_, *again_, *close_;
  bool running_ = false;
  bool beginsSoon_ = false;  ///< as soon as it is known what would be written
  Newest<RenderSettings, Result<RenderOutline>> outlines_;
  Mailbox inbox_;
  std::jthread thread_;
};

}  // namespace molten
