#pragma once
// Rendering from the window: what will be written, and where.

#include <QDialog>
#include <memory>

#include "app/ask/ask.h"
#include "app/mailbox/newest.h"
#include "core/engine/render_job.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QSpinBox;

namespace molten {

class RenderQueue;

/// Where something was rendered to, and as what kind of file.
struct RenderPlace {
  QString path;
  QString codec;  ///< an id; empty: by the path's ending
};

/// What the form begins with.
struct RenderWish {
  std::shared_ptr<const Footage> footage;
  Project project;
  QString suggested;       ///< a path to begin with if the project names none
  RenderPlace ofMap = {};  ///< likewise for time maps
  std::size_t memoryBytes = 0;
  std::optional<TimeMapUnit> map = std::nullopt;  ///< to begin with; none: pictures
};

class RenderDialog : public QDialog {
  Q_OBJECT

 public:
  /// `queue`: where it will wait; asked for what is being written already. `ask`: whether what is there is to be
  /// replaced; none: it is.
  RenderDialog(const RenderWish& wish, const RenderQueue& queue, Ask ask, QWidget* parent = nullptr);
  ~RenderDialog() override;

 signals:
  void settingsChosen(const OutputSettings& output);  ///< of pictures
  void mapPlaceChosen(const RenderPlace& place);
  /// What is to be rendered, and what that will be in words. The form closes, or stays for another of the same project.
  void jobChosen(const RenderSettings& job, const QString& summary);

 protected:
  void done(int result) override;

 private:
  void buildForm(const OutputSettings& output, const QString& suggested);
  void makeFields(const OutputSettings& output, const QString& suggested);
  void chooseKind(const OutputSettings& output);
  void codecChosen();
  void whatChosen();
  bool isMap() const;
  RenderPlace place() const;
  bool mayReplace(const RenderOutline& outline);
  void choosePlace();
  void listPresets();
  void presetChosen(int place);
  void keepAsPreset();
  void refresh();
  void outlined(const Result<RenderOutline>& outline);
  Size pictureSize() const;
  bool isOnePicture() const;
  OutputSettings chosen() const;
  RenderSettings settings() const;
  void chooseSoon(bool another);
  std::optional<std::optional<Span>> stretch() const;
  void offerAnother();
  void choose(const RenderOutline& outline);

  std::shared_ptr<const Footage> footage_;
  Project project_;
  std::size_t memory_;
  const RenderQueue& queue_;
  Ask ask_;
  RenderPlace ofPictures_, ofMap_;  ///< of what is not chosen just now, as it was left
  bool mapChosen_ = false;
  QLineEdit *path_, *stretch_;
  QComboBox *preset_, *what_, *codec_, *size_, *sound_;
  QSpinBox* quality_;
  QLabel *qualityHelp_, *summary_, *notes_;
  QPushButton *keepPreset_, *render_, *another_;
  bool chosenSoon_ = false;  ///< as soon as it is known what would be written
  bool stays_ = false;       ///< and the form stays
  Newest<RenderSettings, Result<RenderOutline>> outlines_;
};

}  // namespace molten
