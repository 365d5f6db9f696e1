#include "core/media/title_picture.h"

#include "core/picture/blank.h"

#include <fontconfig/fontconfig.h>
#include <pango/pangocairo.h>
#include <pango/pangofc-fontmap.h>
#include <sys/mman.h>
#include <unistd.h>

#include <algorithm>
#include <cmath>
#include <memory>
#include <mutex>

#include "core/picture/halve.h"

// The typeface that comes along, as it stands in its files.
#define MOLTEN_FONT(name, file)                                                            \
  __asm__(".section .rodata\n.balign 16\n.global " #name "\n.type " #name ", @object\n" #name \
          ":\n.incbin \"" file "\"\n.global " #name "_end\n" #name "_end:\n.byte 0\n.previous\n"); \
  extern "C" const unsigned char name[];                                                   \
  extern "C" const unsigned char name##_end[]
MOLTEN_FONT(molten_font_regular, MOLTEN_FONTS "/B612-Regular.otf");
MOLTEN_FONT(molten_font_bold, MOLTEN_FONTS "/B612-Bold.otf");

namespace molten {
namespace {

constexpr std::size_t mostBytes = std::size_t(1) << 20;

/// The libraries below share what they know of typefaces.
std::mutex drawing;

struct Unref {
  void operator()(void* object) const { g_object_unref(object); }
  void operator()(cairo_t* context) const { cairo_destroy(context); }
  void operator()(cairo_surface_t* surface) const { cairo_surface_destroy(surface); }
  void operator()(PangoAttrList* list) const { pango_attr_list_unref(list); }
  void operator()(PangoFontDescription* font) const { pango_font_description_free(font); }
  void operator()(cairo_font_options_t* options) const { cairo_font_options_destroy(options); }
};
template <class T>
using Held = std::unique_ptr<T, Unref>;

/// What typefaces there are: those that are installed, and ours in files that only this process has, which are read by the
/// path of their descriptor. Apart from what else in the process may have been told of typefaces.
FcConfig* knownTypefaces() {
  static FcConfig* const known = [] {
    FcConfig* const config = FcInitLoadConfigAndFonts();
    const std::pair<const unsigned char*, const unsigned char*> files[] = {{molten_font_regular, molten_font_regular_end}, {molten_font_bold, molten_font_bold_end}};
    for (const auto& [begin, end] : files) {
      const int file = memfd_create("typeface", MFD_CLOEXEC);
      if (file < 0) continue;
      const auto bytes = static_cast<std::size_t>(end - begin);
      if (write(file, begin, bytes) != static_cast<ssize_t>(bytes)) continue;
      const std::string path = "/proc/self/fd/" + std::to_string(file);
      FcConfigAppFontAddFile(config, reinterpret_cast<const FcChar8*>(path.c_str()));
    }
    return config;
  }();
  return known;
}

PangoFontMap* newTypefaceMap() {
  PangoFontMap* const map = pango_cairo_font_map_new_for_font_type(CAIRO_FONT_TYPE_FT);
  pango_fc_font_map_set_config(PANGO_FC_FONT_MAP(map), knownTypefaces());
  return map;
}

/// Around the lines, for what hangs over and what is laid about them.
double paddingOf(const TitleLook& look) {
  return std::ceil(look.size * 0.25 + look.outline + (look.shade > 0 ? look.shadeAway + 2 * look.shadeSoft : 0));
}

/// A title laid out at its full size, whatever it is drawn at.
class Laid {
 public:
  explicit Laid(const TitleLook& look) {
    map_.reset(newTypefaceMap());
    context_.reset(pango_font_map_create_context(map_.get()));
    const Held<cairo_font_options_t> options(cairo_font_options_create());
    cairo_font_options_set_hint_style(options.get(), CAIRO_HINT_STYLE_NONE);
    cairo_font_options_set_hint_metrics(options.get(), CAIRO_HINT_METRICS_OFF);
    cairo_font_options_set_antialias(options.get(), CAIRO_ANTIALIAS_GRAY);
    pango_cairo_context_set_font_options(context_.get(), options.get());
    layout_.reset(pango_layout_new(context_.get()));
    const Held<PangoFontDescription> font(pango_font_description_new());
    pango_font_description_set_family(font.get(), look.typeface.empty() ? ownTypeface : look.typeface.c_str());
    pango_font_description_set_weight(font.get(), static_cast<PangoWeight>(std::clamp(look.weight, 100, 900)));
    pango_font_description_set_absolute_size(font.get(), std::clamp(look.size, 1.0, 4000.0) * PANGO_SCALE);
    pango_layout_set_font_description(layout_.get(), font.get());
    const Held<PangoAttrList> attributes(pango_attr_list_new());
    pango_attr_list_insert(attributes.get(), pango_attr_letter_spacing_new(static_cast<int>(look.tracking * PANGO_SCALE)));
    pango_layout_set_attributes(layout_.get(), attributes.get());
    // What is no letter of any script is shown as such.
    const std::unique_ptr<char, void (*)(void*)> valid(g_utf8_make_valid(look.text.data(), static_cast<gssize>(std::min(look.text.size(), mostBytes))), g_free);
    pango_layout_set_text(layout_.get(), valid.get(), -1);
    pango_layout_set_width(layout_.get(), static_cast<int>(std::clamp(look.width, 1.0, static_cast<double>(longestTitle)) * PANGO_SCALE));
    pango_layout_set_wrap(layout_.get(), PANGO_WRAP_WORD_CHAR);
    pango_layout_set_auto_dir(layout_.get(), TRUE);
    pango_layout_set_alignment(layout_.get(), look.align == TitleLook::Align::Left    ? PANGO_ALIGN_LEFT
                                              : look.align == TitleLook::Align::Right ? PANGO_ALIGN_RIGHT
                                                                                      : PANGO_ALIGN_CENTER);
    // Baselines lie so far apart that lines of one size do.
    const double natural = naturalLine();
    if (natural > 0) pango_layout_set_line_spacing(layout_.get(), static_cast<float>(look.lineDistance * look.size / natural));
    PangoRectangle logical;
    pango_layout_get_extents(layout_.get(), nullptr, &logical);
    left_ = static_cast<double>(logical.x) / PANGO_SCALE, top_ = static_cast<double>(logical.y) / PANGO_SCALE;
    padding_ = paddingOf(look);
    wide_ = std::min(static_cast<double>(logical.width) / PANGO_SCALE, longestTitle - 2 * padding_);
    tall_ = std::min(static_cast<double>(logical.height) / PANGO_SCALE, longestTitle - 2 * padding_);
  }

  Size size() const {
    return {std::clamp(static_cast<int>(std::ceil(wide_ + 2 * padding_)), 1, longestTitle),
            std::clamp(static_cast<int>(std::ceil(tall_ + 2 * padding_)), 1, longestTitle)};
  }
  TitleBox box() const { return {padding_, padding_, padding_ + wide_, padding_ + tall_}; }
  /// Its letters as a path, at their place in the picture.
  void path(cairo_t* to) const {
    cairo_move_to(to, padding_ - left_, padding_ - top_);
    pango_cairo_layout_path(to, layout_.get());
  }
  void show(cairo_t* to) const {
    cairo_move_to(to, padding_ - left_, padding_ - top_);
    pango_cairo_show_layout(to, layout_.get());
  }

 private:
  double naturalLine() const {
    PangoRectangle line;
    PangoLayoutLine* const first = pango_layout_get_line_readonly(layout_.get(), 0);
    if (!first) return 0;
    pango_layout_line_get_extents(first, nullptr, &line);
    return static_cast<double>(line.height) / PANGO_SCALE;
  }

  Held<PangoFontMap> map_;
  Held<PangoContext> context_;
  Held<PangoLayout> layout_;
  double left_ = 0, top_ = 0, wide_ = 0, tall_ = 0, padding_ = 0;
};

/// Every pixel the mean of those around it, three times: nearly a Gaussian. Of one plane of bytes.
void soften(std::vector<float>& plane, Size size, int radius) {
  if (radius < 1) return;
  std::vector<float> line(static_cast<std::size_t>(std::max(size.width, size.height)));
  const auto along = [&](int count, int lines, int step, int apart) {
    for (int j = 0; j < lines; ++j) {
      float* const at = plane.data() + static_cast<std::ptrdiff_t>(j) * apart;
      double sum = 0;
      for (int i = -radius; i <= radius; ++i) sum += i >= 0 && i < count ? static_cast<double>(at[i * step]) : 0;
      for (int i = 0; i < count; ++i) {
        line[static_cast<std::size_t>(i)] = static_cast<float>(sum / (2 * radius + 1));
        const int next = i + radius + 1, last = i - radius;
        sum += (next < count ? static_cast<double>(at[next * step]) : 0) - (last >= 0 ? static_cast<double>(at[last * step]) : 0);
      }
      for (int i = 0; i < count; ++i) at[i * step] = line[static_cast<std::size_t>(i)];
    }
  };
  for (int round = 0; round < 3; ++round) {
    along(size.width, size.height, 1, size.width);
    along(size.height, size.width, size.width, 1);
  }
}

/// How much of each pixel a drawing covers, 0…1.
template <class Draw>
std::vector<float> coverOf(Size size, double smaller, Draw draw) {
  const Held<cairo_surface_t> surface(cairo_image_surface_create(CAIRO_FORMAT_A8, size.width, size.height));
  {
    const Held<cairo_t> to(cairo_create(surface.get()));
    cairo_scale(to.get(), 1 / smaller, 1 / smaller);
    cairo_set_source_rgba(to.get(), 1, 1, 1, 1);
    draw(to.get());
  }
  cairo_surface_flush(surface.get());
  std::vector<float> cover(static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height));
  const unsigned char* const bytes = cairo_image_surface_get_data(surface.get());
  const int stride = cairo_image_surface_get_stride(surface.get());
  for (int y = 0; bytes && y < size.height; ++y)
    for (int x = 0; x < size.width; ++x)
      cover[static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width) + static_cast<std::size_t>(x)] = static_cast<float>(bytes[y * stride + x]) / 255;
  return cover;
}

}  // namespace

Size titleSize(const TitleLook& look) {
  const std::scoped_lock lock(drawing);
  return Laid(look).size();
}

TitleBox titleBox(const TitleLook& look) {
  const std::scoped_lock lock(drawing);
  return Laid(look).box();
}

Picture titlePicture(const TitleLook& look, int scale) {
  const std::scoped_lock lock(drawing);
  const Laid laid(look);
  const PictureShape shape = shapeAtScale(drawnShape(laid.size()), scale);
  const Size size = shape.size;
  const std::vector<float> letters = coverOf(size, scale, [&](cairo_t* to) { laid.show(to); });
  std::vector<float> around, shade;
  if (look.outline > 0)
    around = coverOf(size, scale, [&](cairo_t* to) {
      laid.path(to);
      cairo_set_line_join(to, CAIRO_LINE_JOIN_ROUND);
      cairo_set_line_width(to, 2 * look.outline);
      cairo_stroke(to);
      laid.show(to);
    });
  if (look.shade > 0) {
    shade = coverOf(size, scale, [&](cairo_t* to) {
      cairo_translate(to, look.shadeAway * 0.7071, look.shadeAway * 0.7071);
      laid.path(to);
      if (look.outline > 0) {
        cairo_set_line_width(to, 2 * look.outline);
        cairo_stroke_preserve(to);
      }
      cairo_fill(to);
    });
    soften(shade, size, static_cast<int>(std::lround(look.shadeSoft / scale / 2)));
  }
  Picture made(shape);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const auto i = static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width) + static_cast<std::size_t>(x);
      // From the back to the front: shade, outline, letters; colours times what they cover.
      double rgb[3] = {}, alpha = shade.empty() ? 0 : static_cast<double>(shade[i]) * look.shade;
      const auto lay = [&](double cover, const std::array<double, 3>& colour) {
        for (std::size_t c = 0; c < 3; ++c) rgb[c] = rgb[c] * (1 - cover) + colour[c] * cover;
        alpha = alpha * (1 - cover) + cover;
      };
      if (!around.empty()) lay(static_cast<double>(around[i]), look.outlineColour);
      lay(static_cast<double>(letters[i]), look.colour);
      const int planes[] = {2, 0, 1};
      for (std::size_t c = 0; c < 3; ++c)
        made.writableRow(planes[c], y)[x] = static_cast<std::uint8_t>(std::lround(std::clamp(alpha > 0 ? rgb[c] / alpha : look.colour[c], 0.0, 1.0) * 255));
      made.writableRow(3, y)[x] = static_cast<std::uint8_t>(std::lround(std::clamp(alpha, 0.0, 1.0) * 255));
    }
  return made;
}

std::vector<std::string> typefaces() {
  const std::scoped_lock lock(drawing);
  const Held<PangoFontMap> map(newTypefaceMap());
  PangoFontFamily** families = nullptr;
  int count = 0;
  pango_font_map_list_families(map.get(), &families, &count);
  std::vector<std::string> names;
  for (int i = 0; i < count; ++i) names.emplace_back(pango_font_family_get_name(families[i]));
  g_free(families);
  std::sort(names.begin(), names.end());
  names.erase(std::unique(names.begin(), names.end()), names.end());
  return names;
}

}  // namespace molten
