#pragma once
// How pictures are combined.

namespace molten {

/// How pictures vₖ with weights wₖ are combined, colour by colour, from the first to the last:
///   Sum         Σ wₖ·vₖ                 Mean        Σ wₖ·vₖ / Σ wₖ
///   BelowWhite  1 − Π (1 − wₖ·vₖ)       Brightest   max wₖ·vₖ          Darkest   min 1 − wₖ·(1 − vₖ)
///   Over        each laid over those before it, with opacity wₖ
///   Under       each laid under those before it, with opacity wₖ
/// Black is 0 and white 1; nothing is held between them before the end. Where pictures have an alpha aₖ, wₖ·aₖ stands
/// for wₖ; then Mean has the alpha Σ wₖ·aₖ / Σ wₖ, Over and Under that of things laid over each other, the rest
/// 1 − Π (1 − aₖ·wₖ/w), w the largest weight.
enum class BlendMode { Sum, BelowWhite, Brightest, Darkest, Mean, Over, Under };

}  // namespace molten
