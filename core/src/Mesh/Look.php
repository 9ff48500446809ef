<?php

declare(strict_types=1);

namespace Emberstone\Core\Mesh;

use Emberstone\Core\Foundation\InvalidParameter;

/** What somebody says that a body looks like and is made of: the colour of its measured surface, sRGB, and its material, in words. Either may be left out. */
final readonly class Look
{
    /** Letters that a material's name may have. */
    private const MOST_LETTERS = 60;

    /** @param  int|null  $colour  red << 16 | green << 8 | blue */
    private function __construct(public ?int $colour, public string $material)
    {
    }

    /**
     * @param  mixed  $look  {"colour": "#8a8f94", "material": "cast iron"}
     *
     * @throws InvalidParameter
     */
    public static function from(mixed $look): self
    {
        $colour = is_array($look) ? $look['colour'] ?? null : '';
        $material = is_array($look) ? $look['material'] ?? '' : '';
        if (($colour !== null && (! is_string($colour) || preg_match('/^#[0-9a-fA-F]{6}$/D', $colour) !== 1)) || ! is_string($material) || mb_strlen($material) > self::MOST_LETTERS || preg_match('/[[:cntrl:]]/', $material) === 1) {
            throw InvalidParameter::of('looks', 'must say of each body {"colour": "#8a8f94", "material": "cast iron"}: six hexadecimal digits, and a name of at most '.self::MOST_LETTERS.' letters');
        }

        return new self($colour === null ? null : (int) hexdec(substr($colour, 1)), trim($material));
    }

    public static function none(): self
    {
        return new self(null, '');
    }

    public function isNone(): bool
    {
        return $this->colour === null && $this->material === '';
    }

    /** @return array{int, int, int} red, green, blue of surface with a mark, 0 to 255: made-up surface keeps the colours that tell it */
    public function rgb(int $mark): array
    {
        return $mark === TriangleMesh::MEASURED && $this->colour !== null ? [$this->colour >> 16, $this->colour >> 8 & 255, $this->colour & 255] : EvidenceColours::rgb($mark);
    }

    /** What surface with a mark is called in files. */
    public function name(int $mark): string
    {
        return $mark === TriangleMesh::MEASURED && $this->material !== '' ? $this->material : EvidenceColours::name($mark);
    }
}
