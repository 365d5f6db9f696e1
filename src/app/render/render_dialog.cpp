#include "app/render/render_dialog.h"

#include <QComboBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QFormLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QRegularExpression>
#include <QSpinBox>
#include <QVBoxLayout>

#include "app/render/presets.h"
#include "app/render/render_queue.h"
#include "app/theme/parts.h"
#include "app/theme/theme.h"
#include "core/media/footage.h"
#include "core/project/played.h"

namespace molten {
namespace {

QString text(const std::string& s) {
  return QString::fromStdString(s);
}

template <class Widget>
Widget* named(Widget* widget, const char* name) {
  widget->setObjectName(name);
  return widget;
}

/// Names what would be replaced.
QString whatIsThere(const RenderOutline& outline) {
  if (outline.replaced == 1) return QObject::tr("%1 is there already.").arg(text(outline.firstReplaced));
  return QObject::tr("%1 stills are there already, %2 to %3.")
      .arg(outline.replaced)
      .arg(text(outline.firstReplaced), text(outline.lastReplaced));
}

}  // namespace

RenderDialog::RenderDialog(const RenderWish& wish, const RenderQueue& queue, Ask ask, QWidget* parent)
    : QDialog(parent),
      footage_(wish.footage),
      project_(wish.project),
      memory_(wish.memoryBytes),
      queue_(queue),
      ask_(std::move(ask)),
      ofMap_(wish.ofMap),
      outlines_([](const RenderSettings& job, const std::stop_token& stop) { return outlineRender(job, stop); },
                [this](const Result<RenderOutline>& outline) { outlined(outline); }) {
  setWindowTitle(tr("Render"));
  setMinimumWidth(620);
  buildForm(project_.output, wish.suggested);
  codecChosen();
  if (wish.map) what_->setCurrentIndex(*wish.map == TimeMapUnit::Seconds ? 1 : 2);
}

RenderDialog::~RenderDialog() = default;

void RenderDialog::buildForm(const OutputSettings& output, const QString& suggested) {
  makeFields(output, suggested);
  auto* choose = new QPushButton(tr("Choose…"));
  auto* place = new QHBoxLayout;
  place->setSpacing(8);
  place->addWidget(path_, 1);
  place->addWidget(choose);
  auto* qualityRow = new QHBoxLayout;
  qualityRow->setSpacing(10);
  qualityRow->addWidget(quality_);
  qualityRow->addWidget(qualityHelp_, 1);
  auto* rate = theme::note();
  rate->setText(
      tr("%1 fps, as set at Output in the Chain").arg(text(rateText(output.rate.value_or(footage_->clock().rate())))));
  auto* form = new QFormLayout;
  form->setContentsMargins(0, 0, 0, 0);
  form->setHorizontalSpacing(16);
  form->setVerticalSpacing(10);
  auto* presetRow = new QHBoxLayout;
  presetRow->setSpacing(8);
  presetRow->addWidget(preset_, 1);
  presetRow->addWidget(keepPreset_);
  form->addRow(tr("For"), presetRow);
  form->addRow(tr("What"), what_);
  form->addRow(tr("Format"), codec_);
  form->addRow(tr("File"), place);
  form->addRow(tr("Size"), size_);
  form->addRow(tr("Rate"), rate);
  form->addRow(tr("Frames"), stretch_);
  form->addRow(tr("Quality"), qualityRow);
  form->addRow(tr("Sound"), sound_);
  auto* dismiss = new QPushButton(tr("Cancel"));
  auto* buttons = new QHBoxLayout;
  buttons->setSpacing(8);
  buttons->addStretch(1);
  buttons->addWidget(dismiss);
  buttons->addWidget(another_);
  buttons->addWidget(render_);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(20, 18, 20, 16);
  column->addLayout(form);
  column->addSpacing(10);
  column->addWidget(summary_);
  column->addWidget(notes_);
  column->addStretch(1);
  column->addLayout(buttons);
  // Return renders, wherever it is pressed; once the button belongs to the dialog it can be told.
  for (QPushButton* const other : {choose, dismiss, another_, keepPreset_}) other->setAutoDefault(false);
  render_->setDefault(true);
  connect(choose, &QPushButton::clicked, this, &RenderDialog::choosePlace);
  connect(dismiss, &QPushButton::clicked, this, &QDialog::reject);
  chooseKind(output);
  connect(preset_, &QComboBox::activated, this, &RenderDialog::presetChosen);
  connect(keepPreset_, &QPushButton::clicked, this, &RenderDialog::keepAsPreset);
  connect(what_, &QComboBox::currentIndexChanged, this, &RenderDialog::whatChosen);
  connect(codec_, &QComboBox::currentIndexChanged, this, &RenderDialog::codecChosen);
  connect(path_, &QLineEdit::textChanged, this, &RenderDialog::refresh);
  connect(size_, &QComboBox::editTextChanged, this, &RenderDialog::refresh);
  connect(sound_, &QComboBox::currentIndexChanged, this, &RenderDialog::refresh);
  connect(quality_, &QSpinBox::valueChanged, this, &RenderDialog::refresh);
  connect(stretch_, &QLineEdit::textChanged, this, &RenderDialog::refresh);
  connect(render_, &QPushButton::clicked, this, [this] { chooseSoon(false); });
  connect(another_, &QPushButton::clicked, this, [this] { chooseSoon(true); });
}

void RenderDialog::makeFields(const OutputSettings& output, const QString& suggested) {
  preset_ = named(new QComboBox, "preset");
  keepPreset_ = named(new QPushButton, "keepPreset");
  listPresets();
  what_ = named(new QComboBox, "what");
  what_->addItem(tr("The pictures"));
  what_->addItem(tr("The time map: seconds from now"));
  what_->addItem(tr("The time map: frames from now"));
  what_->setToolTip(tr("A time map says how far from now each pixel reads, to be read back as a Time Field's picture"));
  codec_ = named(new QComboBox, "codec");
  for (const auto& codec : codecs())
    codec_->addItem(tr("%1 (%2)").arg(text(codec.label), text(codec.extensions[0])), text(codec.id));
  path_ = named(new QLineEdit(output.path.empty() ? suggested : text(output.path)), "place");
  path_->setAccessibleName(tr("File"));
  const Size full = pictureSize();
  size_ = named(new QComboBox, "size");
  size_->setEditable(true);
  for (const auto& [name, divide] :
       {std::pair{tr("footage"), 1}, std::pair{tr("half"), 2}, std::pair{tr("quarter"), 4}})
    size_->addItem(QString("%1 × %2  %3").arg(full.width / divide).arg(full.height / divide).arg(name));
  if (output.size) size_->setEditText(QString("%1 × %2").arg(output.size->width).arg(output.size->height));
  quality_ = named(new QSpinBox, "quality");
  quality_->setAccessibleName(tr("Quality"));
  quality_->setFixedWidth(90);
  quality_->setButtonSymbols(QAbstractSpinBox::NoButtons);
  quality_->setFont(theme::words());
  qualityHelp_ = theme::note();
  sound_ = named(new QComboBox, "sound");
  sound_->addItem(tr("As it is heard"), static_cast<int>(SoundWish::Mix));
  sound_->addItem(tr("The footage's, as it lies in its file"), static_cast<int>(SoundWish::Copy));
  sound_->addItem(tr("None"), static_cast<int>(SoundWish::None));
  summary_ = named(new QLabel, "summary");
  summary_->setWordWrap(true);
  notes_ = named(new QLabel, "notes");
  notes_->setWordWrap(true);
  stretch_ = named(new QLineEdit, "stretch");
  stretch_->setPlaceholderText(tr("all, from in to out"));
  stretch_->setToolTip(tr("A stretch of the result, counted from 0: 0-99"));
  another_ = named(new QPushButton(tr("Render, and another…")), "another");
  another_->setToolTip(tr("Puts this one into the queue; the form stays for another format, size or stretch"));
  render_ = named(new QPushButton(tr("Render")), "render");
  render_->setProperty("primary", true);
}

/// That the path's ending or the project says.
void RenderDialog::chooseKind(const OutputSettings& output) {
  OutputSpec spec;
  spec.path = path_->text().toStdString();
  spec.codec = output.codec;
  spec.shape = footage_->shape();
  spec.single = isOnePicture();
  if (auto plan = planOutput(spec)) codec_->setCurrentIndex(codec_->findData(text(plan->codec->id)));
}

void RenderDialog::codecChosen() {
  const auto& codec = codecs()[static_cast<std::size_t>(codec_->currentIndex())];
  const bool hasQuality = codec.qualityDefault >= 0;
  quality_->setEnabled(hasQuality);
  quality_->setRange(hasQuality ? codec.qualityLeast : 0, hasQuality ? codec.qualityMost : 0);
  quality_->setValue(project_.output.codec == codec.id && project_.output.quality >= 0
                         ? project_.output.quality
                         : std::max(0, codec.qualityDefault));
  sound_->setEnabled(!codec.stills);
  qualityHelp_->setText(hasQuality ? text(codec.qualityHelp) : tr("every sample is kept"));
  // The name's ending follows the kind.
  const QFileInfo file(path_->text());
  QString ending = "." + file.suffix();
  const bool numbered = codec.stills && !isOnePicture();
  if (std::find(codec.extensions.begin(), codec.extensions.end(), ending.toStdString()) == codec.extensions.end() ||
      numbered != file.fileName().contains('%')) {
    QString base = file.completeBaseName();
    base.remove("-%05d");
    if (base.isEmpty()) base = "result";
    path_->setText(file.path() + "/" + base + (numbered ? "-%05d" : "") + text(codec.extensions[0]));
  }
  refresh();
}

/// Of what leaves the chain: not always the footage's.
Size RenderDialog::pictureSize() const {
  return videoAt(project_.chain, project_.chain.size(), footage_->video()).size;
}

bool RenderDialog::isOnePicture() const {
  return !isReel(project_) && pieceOf(project_, footage_->video()).length == 1;
}

bool RenderDialog::isMap() const {
  return what_->currentIndex() > 0;
}

RenderPlace RenderDialog::place() const {
  return {path_->text(), codec_->currentData().toString()};
}

/// Pictures and time maps have a place and a kind of their own.
void RenderDialog::whatChosen() {
  if (isMap() != mapChosen_) {
    (mapChosen_ ? ofMap_ : ofPictures_) = place();
    mapChosen_ = isMap();
    RenderPlace next = mapChosen_ ? ofMap_ : ofPictures_;
    if (next.path.isEmpty()) {
      // Stills that are deep enough, beside the pictures.
      const QFileInfo pictures(ofPictures_.path);
      QString base = pictures.completeBaseName();
      base.remove("-%05d");
      next = {pictures.path() + "/" + base + "-time-map-%05d.png", "png16"};
    }
    const QSignalBlocker quiet(codec_);
    codec_->setCurrentIndex(codec_->findData(next.codec));
    path_->setText(next.path);
    codecChosen();
  }
  refresh();
}

void RenderDialog::listPresets() {
  preset_->clear();
  preset_->addItem(tr("what is chosen below"));
  for (const RenderPreset& one : renderPresets()) preset_->addItem(one.name);
  keepPreset_->setText(tr("Keep as…"));
  keepPreset_->setToolTip(tr("The format, quality and size under a name of your own"));
}

void RenderDialog::presetChosen(int place) {
  const auto all = renderPresets();
  const bool chosen = place > 0 && place <= static_cast<int>(all.size());
  const bool own = chosen && all[static_cast<std::size_t>(place - 1)].own;
  keepPreset_->setText(own ? tr("Remove") : tr("Keep as…"));
  if (!chosen) return;
  const RenderPreset& preset = all[static_cast<std::size_t>(place - 1)];
  what_->setCurrentIndex(0);
  codec_->setCurrentIndex(codec_->findData(preset.codec));
  if (preset.quality >= 0) quality_->setValue(preset.quality);
  size_->setCurrentIndex(preset.part == 4 ? 2 : preset.part - 1);
}

/// Of the user's own that is chosen: it goes.
void RenderDialog::keepAsPreset() {
  const auto all = renderPresets();
  const int place = preset_->currentIndex();
  if (place > 0 && all[static_cast<std::size_t>(place - 1)].own) {
    removePreset(preset_->currentText());
    return listPresets();
  }
  bool agreed = false;
  const QString name = QInputDialog::getText(this, tr("Keep as"), tr("What it is for"), QLineEdit::Normal, {}, &agreed).trimmed();
  if (!agreed || name.isEmpty()) return;
  constexpr int parts[] = {1, 2, 4};
  keepPreset({name, codec_->currentData().toString(), quality_->isEnabled() ? quality_->value() : -1,
              parts[std::clamp(size_->currentIndex(), 0, 2)]});
  listPresets();
  preset_->setCurrentText(name);
  presetChosen(preset_->currentIndex());
}

/// Asks where something is there already, as often as that is so.
bool RenderDialog::mayReplace(const RenderOutline& outline) {
  if (!ask_ || outline.replaced == 0) return true;
  enum { Replace };
  return ask_(tr("Replace?"), whatIsThere(outline),
              {outline.replaced == 1 ? tr("Replace it") : tr("Replace them"), tr("Cancel")}) == Replace;
}

void RenderDialog::choosePlace() {
  const auto& codec = codecs()[static_cast<std::size_t>(codec_->currentIndex())];
  QStringList patterns;
  for (const auto& extension : codec.extensions) patterns << "*" + text(extension);
  // What is there already is asked about when it is to be replaced.
  const QString path = QFileDialog::getSaveFileName(this, tr("File for the result"), path_->text(),
                                                    tr("%1 (%2)").arg(text(codec.label), patterns.join(' ')), nullptr,
                                                    QFileDialog::DontConfirmOverwrite);
  if (path.isEmpty()) return;
  path_->setText(path);
  codecChosen();
}

OutputSettings RenderDialog::chosen() const {
  OutputSettings output = project_.output;
  output.path = QFileInfo(path_->text()).absoluteFilePath().toStdString();
  output.codec = codec_->currentData().toString().toStdString();
  output.quality = quality_->isEnabled() ? quality_->value() : -1;
  output.size.reset();
  static const QRegularExpression numbers(R"(^\s*(\d{1,5})\s*[×x*]\s*(\d{1,5}))");
  if (const auto match = numbers.match(size_->currentText()); match.hasMatch()) {
    const Size size{match.captured(1).toInt(), match.captured(2).toInt()};
    if (!(size == pictureSize())) output.size = size;
  }
  return output;
}

RenderSettings RenderDialog::settings() const {
  RenderSettings settings;
  settings.footage = footage_;
  settings.project = project_;
  settings.project.output = chosen();
  settings.memoryBytes = memory_;
  settings.threads = static_cast<int>(std::max(1u, std::thread::hardware_concurrency()));
  if (const auto span = stretch()) settings.pictures = *span;
  settings.sound = static_cast<SoundWish>(sound_->currentData().toInt());
  if (isMap()) settings.timeMap = what_->currentIndex() == 1 ? TimeMapUnit::Seconds : TimeMapUnit::Frames;
  return settings;
}

/// Finds out what would be written, or why it cannot be: not here, since it looks at the whole chain and at every file
/// that would be replaced.
void RenderDialog::refresh() {
  chosenSoon_ = false;
  static const QRegularExpression size(R"(^\s*[1-9]\d{0,4}\s*[×x*]\s*[1-9]\d{0,4}(\s.*)?$)");
  const auto refuse = [&](const QString& sentence) {
    outlines_.forget();
    outlined(Error{sentence.toStdString()});
  };
  if (!size.match(size_->currentText()).hasMatch()) return refuse(tr("The size is not one: write it like 1280 × 720."));
  if (!stretch()) return refuse(tr("The frames are none: write them like 0-99, or leave the field empty for all."));
  if (queue_.writes(path_->text()))
    return refuse(tr("%1 is being rendered already, or waits for it. Choose another name, or cancel that one in the "
                     "render queue (Ctrl+Shift+R).")
                      .arg(QFileInfo(path_->text()).fileName()));
  for (auto* const one : {render_, another_}) one->setEnabled(true);
  outlines_.ask(settings());
}

void RenderDialog::outlined(const Result<RenderOutline>& outline) {
  if (outline) {
    const double seconds = static_cast<double>(outline->pictures.count()) / outline->spec.rate.toDouble();
    const QString sound = outline->plan.soundText.empty() ? QString() : tr(" · sound %1").arg(text(outline->plan.soundText));
    summary_->setText(
        tr("%1 pictures, %2 s · %3 × %4 · %5 fps · %6, %7")
            .arg(outline->pictures.count())
            .arg(seconds, 0, 'f', 2)
            .arg(outline->plan.size.width)
            .arg(outline->plan.size.height)
            .arg(text(rateText(outline->spec.rate)), text(outline->plan.codec->label), text(outline->plan.formatText)) +
        sound);
    QStringList notes;
    for (const auto& note : outline->plan.notes) notes << text(note);
    if (outline->replaced > 0) notes << whatIsThere(*outline);
    notes_->setText(notes.join('\n'));
  } else {
    summary_->clear();
    notes_->setText(text(outline.error().message));
  }
  notes_->setVisible(!notes_->text().isEmpty());
  for (auto* const one : {render_, another_}) one->setEnabled(static_cast<bool>(outline));
  if (std::exchange(chosenSoon_, false) && outline) choose(*outline);
}

/// Looks once more first: files may have come, or gone, since.
void RenderDialog::chooseSoon(bool another) {
  refresh();
  stays_ = another;
  chosenSoon_ = render_->isEnabled();
}

void RenderDialog::choose(const RenderOutline& outline) {
  if (!mayReplace(outline)) return;
  RenderSettings job = settings();
  if (ask_) job.mayReplace = outline.replaced;
  const QString summary = isMap() ? what_->currentText() + " · " + summary_->text() : summary_->text();
  isMap() ? emit mapPlaceChosen(place()) : emit settingsChosen(job.project.output);
  emit jobChosen(job, summary);
  if (!stays_) return accept();
  offerAnother();
}

/// None: what stands there is no stretch; one without a value: all.
std::optional<std::optional<Span>> RenderDialog::stretch() const {
  static const QRegularExpression numbers(R"(^\s*(\d{1,9})\s*(?:[-–]\s*(\d{1,9}))?\s*$)");
  if (stretch_->text().trimmed().isEmpty()) return std::optional<Span>();
  const auto match = numbers.match(stretch_->text());
  if (!match.hasMatch()) return std::nullopt;
  const qint64 first = match.captured(1).toLongLong(), last = match.captured(2).isEmpty() ? first : match.captured(2).toLongLong();
  if (last < first) return std::nullopt;
  return std::optional(Span{first, last});
}

/// A name that is not taken by what was asked for just now.
void RenderDialog::offerAnother() {
  const QFileInfo file(path_->text());
  static const QRegularExpression counted(R"(^(.*)-(\d{1,3})((?:-%\d*d)?)$)");
  static const QRegularExpression plain(R"(^(.*?)((?:-%\d*d)?)$)");
  QString base = file.completeBaseName(), end;
  int number = 2;
  if (const auto match = counted.match(base); match.hasMatch()) {
    base = match.captured(1), end = match.captured(3);
    number = match.captured(2).toInt() + 1;
  } else if (const auto whole = plain.match(base); whole.hasMatch()) {
    base = whole.captured(1), end = whole.captured(2);
  }
  QString next;
  do next = QString("%1/%2-%3%4.%5").arg(file.path(), base).arg(number++).arg(end, file.suffix());
  while (queue_.writes(next));
  path_->setText(next);
}

void RenderDialog::done(int result) {
  chosenSoon_ = false;
  QDialog::done(result);
}

}  // namespace molten
