#pragma once
// What the shots of a reel give, and the row that they make.

#include <QObject>
#include <memory>
#include <optional>
#include <vector>

#include "app/mailbox/newest.h"
#include "core/media/footage.h"
#include "core/project/played.h"

namespace molten {

/// Opens the shots' footage on a thread of its own, a few at a time; until a shot's is known it is taken to be a second long.
class ReelReading : public QObject {
  Q_OBJECT

 public:
  explicit ReelReading(QObject* parent = nullptr);
  ~ReelReading() override;

  /// What is to be read now.
  void read(const Project& whole);
  /// Footage that was opened elsewhere.
  void know(const Source& source, const std::shared_ptr<const Footage>& footage);
  /// Footage that is being opened elsewhere, and need not be here as well; without a path: none is.
  void expect(const Source& source) { expected_ = source.path; }
  /// What is known was of another project.
  void forget();
  /// A file has changed: what is made of it, and what could not be had, is opened anew.
  void forget(const std::string& file);

  /// True when every shot's footage is open, or is known not to open.
  bool isComplete() const;
  /// None where the project is no reel, or no shot of it is on.
  const std::optional<Played>& played() const { return played_; }
  /// Where a shot lies; nullptr: it is off.
  const ShotTime* timeOf(std::size_t shot) const;
  /// How long a shot could be: what leaves its chain. In seconds.
  Rational lengthOf(std::size_t shot) const { return shot < lengths_.size() ? lengths_[shot] : Rational(1); }
  /// nullptr: not open, or it cannot be.
  std::shared_ptr<const Footage> footageOf(const Source& source) const;
  /// Why it cannot be had; empty: it can, or that is not known yet.
  std::string troubleWith(const Source& source) const;
  /// All that are open.
  std::vector<std::pair<SourceUse, std::shared_ptr<const Footage>>> open() const;
  /// What leaves a shot's source, as far as it is known: for several threads.
  DescribeSource describer() const;

 signals:
  void found();  ///< more is known
  void failed(const QString& sentence);

 private:
  struct Known {
    SourceUse use;
    Result<std::shared_ptr<const Footage>> footage;
  };
  const Known* find(const Source& source) const;
  void look();

  Project whole_;
  std::optional<Played> played_;
  std::vector<Rational> lengths_;
  std::vector<Known> known_;
  std::vector<SourceUse> lookedFor_;
  std::string expected_;
  Newest<std::vector<SourceUse>, std::vector<Known>> opened_;
};

}  // namespace molten
