<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Shaping;

use Dompdf\Dompdf;
use Emberstone\Core\Algorithms\Cutting\Silhouette;
use Emberstone\Core\Foundation\InvalidParameter;
use FontLib\Font;
use FontLib\TrueType\File;

/** A text as the outlines of its letters, in fonts that ship with the packages. */
final class Lettering
{
    /** Fonts by the name that people choose, and their files. */
    public const FONTS = ['sans' => 'DejaVuSans.ttf', 'bold' => 'DejaVuSans-Bold.ttf', 'serif' => 'DejaVuSerif.ttf', 'mono' => 'DejaVuSansMono-Bold.ttf'];

    /** Letters of a text at most. */
    public const MOST = 200;

    /** Lines stand that many heights of a capital apart. */
    private const LINE = 1.6;

    /** Share of the height of a capital that a bent edge may lie off its true line. */
    private const BEND = 0.003;

    /**
     * @param  float  $height  of a capital letter, mm
     * @return list<list<array{float, float}>> closed lines about the middle of the text, mm to the right and up: around against the clock, openings with it
     *
     * @throws InvalidParameter when the font lacks a letter, or nothing would be seen
     */
    public static function of(string $text, string $font, float $height): array
    {
        $file = Font::load(dirname((string) (new \ReflectionClass(Dompdf::class))->getFileName(), 2).'/lib/fonts/'.self::FONTS[$font]);
        if (! $file instanceof File) {
            throw InvalidParameter::of('font', 'cannot be read');
        }
        $file->parse();
        try {
            return self::drawn($file, $text, $font, $height);
        } finally {
            $file->close();
        }
    }

    /** @return list<list<array{float, float}>> */
    private static function drawn(File $file, string $text, string $font, float $height): array
    {
        $numbers = $file->getUnicodeCharMap();
        $widths = $file->getData('hmtx');
        $capital = self::contours($file, $numbers[ord('H')], INF);
        $scale = $height / max(1.0, max(array_merge(...array_map(fn (array $contour) => array_column($contour, 1), $capital))));
        $drawn = [];
        foreach (explode("\n", str_replace("\r", '', $text)) as $row => $line) {
            $pen = 0.0;
            $of = [];
            foreach (mb_str_split($line) as $letter) {
                $number = $numbers[mb_ord($letter)] ?? null;
                if ($number === null) {
                    throw InvalidParameter::of('text', "holds \"$letter\", which the font $font has no letter for; choose another letter or font");
                }
                foreach (self::contours($file, $number, self::BEND * $height / $scale) as $contour) {
                    $of[] = array_map(fn (array $at) => [$scale * ($at[0] + $pen), $scale * $at[1] - $row * self::LINE * $height], $contour);
                }
                $pen += $widths[$number][0];
            }
            // Each line stands about the middle.
            $drawn = [...$drawn, ...array_map(fn (array $contour) => array_map(fn (array $at) => [$at[0] - 0.5 * $scale * $pen, $at[1]], $contour), $of)];
        }
        // Contours of a letter may overlap, and run with the clock around what is filled.
        $loops = Silhouette::ofLines(array_map(array_reverse(...), $drawn));
        if ($loops === []) {
            throw InvalidParameter::of('text', 'shows nothing; type letters or digits');
        }
        $y = array_column(array_merge(...$loops), 1);
        $middle = 0.5 * (min($y) + max($y));

        return array_map(fn (array $loop) => array_map(fn (array $at) => [$at[0], $at[1] - $middle], $loop), $loops);
    }

    /**
     * The contours of a letter, in units of the font.
     *
     * @param  float  $bend  how far an edge may lie off a curve
     * @return list<list<array{float, float}>>
     */
    private static function contours(File $file, int $number, float $bend): array
    {
        $glyph = $file->getData('glyf')[$number] ?? null;
        if ($glyph === null) {
            return [];
        }
        $glyph->parseData();
        $parts = $glyph->getSVGContours();
        $contours = [];
        // A letter made of others, such as one with an accent, has a transform for each.
        foreach (is_array($parts) ? $parts : [['contours' => $parts, 'transform' => [1.0, 0.0, 0.0, 1.0, 0.0, 0.0]]] as $part) {
            [$a, $b, $c, $d, $e, $f] = $part['transform'];
            foreach (self::parsed((string) $part['contours'], $bend) as $contour) {
                $contours[] = array_map(fn (array $at) => [$a * $at[0] + $c * $at[1] + $e, $b * $at[0] + $d * $at[1] + $f], $contour);
            }
        }

        return $contours;
    }

    /** @return list<list<array{float, float}>> of a path of moves, lines and curves of second order */
    private static function parsed(string $path, float $bend): array
    {
        $contours = [];
        $own = [];
        preg_match_all('/([MLQz])([-\d.,]*)/', $path, $commands, PREG_SET_ORDER);
        foreach ($commands as [, $command, $numbers]) {
            $at = array_map(floatval(...), explode(',', $numbers));
            if ($command === 'M' || $command === 'L') {
                $own[] = [$at[0], $at[1]];
            } elseif ($command === 'Q') {
                [$x, $y] = $own[count($own) - 1];
                // A curve of second order lies an eighth of its second difference off its chord, in n parts an n-th of that squared.
                $off = hypot($x - 2.0 * $at[0] + $at[2], $y - 2.0 * $at[1] + $at[3]) / 4.0;
                $parts = max(1, (int) ceil(sqrt($off / $bend)));
                for ($k = 1; $k <= $parts; $k++) {
                    $t = $k / $parts;
                    $own[] = [(1.0 - $t) ** 2 * $x + 2.0 * $t * (1.0 - $t) * $at[0] + $t * $t * $at[2], (1.0 - $t) ** 2 * $y + 2.0 * $t * (1.0 - $t) * $at[1] + $t * $t * $at[3]];
                }
            } else {
                $contours[] = $own;
                $own = [];
            }
        }

        return $contours;
    }
}
