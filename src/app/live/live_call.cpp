#include "app/live/live_call.h"
#include "app/live/record_name.h"

#include <QCommandLineParser>

namespace molten {
namespace {

struct Parser {
  QCommandLineParser parser;
  QCommandLineOption live{"live", "The chain runs on a camera: simulated, a device (/dev/video0), or a clip that plays as one.", "CAMERA"};
  QCommandLineOption size{"camera-size", "Size of the camera's pictures, like 1280x720.", "WxH"};
  QCommandLineOption rate{"camera-rate", "Frames a second of the camera.", "RATE"};
  QCommandLineOption late{"late", "Simulated: so many percent of the frames come late.", "PERCENT"};
  QCommandLineOption lost{"lost", "Simulated: so many percent of the frames never come.", "PERCENT"};
  QCommandLineOption irregular{"irregular", "Simulated: frames are taken irregularly."};
  QCommandLineOption comesOff{"comes-off", "Simulated: it is gone every so many seconds, and found again.", "SECONDS"};
  QCommandLineOption numbered{"numbered", "Simulated: frames carry their numbers."};
  QCommandLineOption fullScreen{"full-screen", "The picture alone on a whole screen; Escape leaves."};
  QCommandLineOption screen{"screen", "On which one: 1 is the first.", "N"};
  QCommandLineOption mirror{"mirror", "The full screen the other way round."};
  QCommandLineOption turn{"turn", "The full screen turned to the right: 90, 180 or 270.", "DEGREES"};
  QCommandLineOption record{"record", "What is shown goes into a new .mp4 or .mov; %t in its name becomes the time, and a name that is there gets a number.", "FILE"};
  QCommandLineOption recordCamera{"record-camera", "What comes in goes into a new .mp4 or .mov.", "FILE"};
  QCommandLineOption wait{"wait-for-camera", "Waits for the camera as long as it takes; otherwise the call fails after 10 seconds without one."};
  QCommandLineOption status{"status", "How each second's line says how it goes: words or json.", "FORM"};
  QCommandLineOption cameras{"cameras", "Lists the cameras, with sizes and rates."};
  QCommandLineOption version{"version", "Says which version this is."};
  QCommandLineOption help{{"h", "help"}, "This text."};

  Parser() {
    parser.setApplicationDescription("Opens the window, with a project, a clip, or a folder of numbered stills.");
    parser.addOptions({help, version, live, size, rate, late, lost, irregular, comesOff, numbered, fullScreen, screen, mirror, turn, record, recordCamera, wait, status, cameras});
    parser.addPositionalArgument("PATH", "A project or footage.", "[PROJECT.molten | FOOTAGE]");
  }
};

Error wrong(const char* option, const QString& text, const char* wanted) {
  return {QString("--%1 %2: %3.").arg(option, text, wanted).toStdString()};
}

}  // namespace

Result<Call> callOf(const QStringList& arguments) {
  Parser words;
  QCommandLineParser& parser = words.parser;
  // It takes the first one for the program's name.
  if (!parser.parse(QStringList{"molten-clock"} + arguments)) return Error{parser.errorText().toStdString() + " See --help."};
  Call call;
  const QStringList paths = parser.positionalArguments();
  if (paths.size() > 1) return Error{"One project or clip can be opened at a time: " + paths.join(", ").toStdString() + "."};
  if (!paths.empty()) call.open = paths.front();
  call.listCameras = parser.isSet(words.cameras);
  call.fullScreen = parser.isSet(words.fullScreen);
  call.mirrored = parser.isSet(words.mirror);
  call.record = parser.value(words.record);
  call.recordCamera = parser.value(words.recordCamera);
  call.waitForCamera = parser.isSet(words.wait);
  if (const QString form = parser.value(words.status); parser.isSet(words.status) && form != "words" && form != "json")
    return wrong("status", form, "words or json");
  call.statusJson = parser.value(words.status) == "json";
  CameraChoice camera;
  bool ok = true;
  if (parser.isSet(words.size)) {
    const QString text = parser.value(words.size);
    const QStringList sides = text.split('x');
    Size size;
    if (sides.size() == 2) {
      size.width = sides[0].toInt(&ok);
      if (ok) size.height = sides[1].toInt(&ok);
    }
    if (!ok || size.width < 1 || size.height < 1) return wrong("camera-size", text, "a width and a height, like 1280x720");
    camera.size = size;
  }
  if (parser.isSet(words.rate)) {
    camera.rate = parseRate(parser.value(words.rate).toStdString());
    if (!camera.rate) return wrong("camera-rate", parser.value(words.rate), "frames a second, like 30 or 29.97");
  }
  const auto number = [&](const QCommandLineOption& option, const char* name, double most, double& into, double scale) -> Status {
    if (!parser.isSet(option)) return {};
    QString text = parser.value(option);
    const double value = text.remove('%').toDouble(&ok);
    if (!ok || !(value >= 0) || value > most) return wrong(name, parser.value(option), most == 100 ? "percent, 0 to 100" : "a number from 0 on");
    into = value * scale;
    return {};
  };
  CameraTroubles& troubles = camera.troubles;
  if (auto late = number(words.late, "late", 100, troubles.late, 0.01); !late) return late.error();
  if (auto lost = number(words.lost, "lost", 100, troubles.lost, 0.01); !lost) return lost.error();
  if (auto off = number(words.comesOff, "comes-off", 1e6, troubles.comesOffAfter, 1); !off) return off.error();
  if (troubles.lost > 0.99) return wrong("lost", parser.value(words.lost), "at most 99 percent");
  troubles.irregular = parser.isSet(words.irregular);
  troubles.numbered = parser.isSet(words.numbered);
  if (parser.isSet(words.turn)) {
    call.turned = parser.value(words.turn).toInt(&ok);
    if (!ok || call.turned % 90 != 0 || call.turned < 0 || call.turned > 270) return wrong("turn", parser.value(words.turn), "0, 90, 180 or 270");
  }
  if (parser.isSet(words.screen)) {
    call.screen = parser.value(words.screen).toInt(&ok) - 1;
    if (!ok || call.screen < 0) return wrong("screen", parser.value(words.screen), "the number of a screen, from 1 on");
  }
  if (parser.isSet(words.live)) {
    camera.id = parser.value(words.live).toStdString();
    call.camera = camera;
  } else if (call.fullScreen || call.waitForCamera || parser.isSet(words.status) || !call.record.isEmpty() || !call.recordCamera.isEmpty()) {
    return Error{"--full-screen, --record, --status and --wait-for-camera are of a camera: name one with --live, like --live simulated."};
  }
  QStringList taken;
  for (QString* const name : {&call.record, &call.recordCamera}) {
    if (name->isEmpty()) continue;
    const auto place = recordName(*name, QDateTime::currentDateTime(), taken);
    if (!place) return place.error();
    taken << (*name = *place);
  }
  return call;
}

QString callHelp() {
  return Parser().parser.helpText();
}

QString camerasListed() {
  QString all;
  for (const CameraOffer& offer : listCameras()) {
    all += QString("%1  %2\n").arg(QString::fromStdString(offer.id), QString::fromStdString(offer.name));
    for (const CameraMode& mode : offer.modes) {
      QStringList rates;
      for (const Rational rate : mode.rates) rates << QString::fromStdString(rateText(rate));
      all += QString("    %1x%2 %3\n").arg(mode.size.width).arg(mode.size.height).arg(rates.join(", "));
    }
  }
  return all;
}

}  // namespace molten
