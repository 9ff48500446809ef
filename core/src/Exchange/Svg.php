<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Foundation\Format;

/** SVG 1.1 in true size: a group a layer, a path a curve, arcs as arcs, Y upwards. */
final class Svg
{
    /** mm around the drawing. */
    private const MARGIN = 5.0;

    /** mm; a fine pen. */
    private const PEN = 0.18;

    /** A drawing as SVG, one unit a millimetre. */
    public static function of(Drawing $drawing): string
    {
        $mm = $drawing->unit->inMillimetres();
        [$left, $bottom, $right, $top] = array_map(fn (float $v) => $mm * $v, $drawing->box());
        [$width, $height] = [$right - $left + 2.0 * self::MARGIN, $top - $bottom + 2.0 * self::MARGIN];
        $place = fn (float $x, float $y): string => self::number($mm * $x - $left + self::MARGIN).' '.self::number($top - $mm * $y + self::MARGIN);
        $groups = '';
        foreach ($drawing->layers as $layer) {
            $groups .= '  <g id="'.htmlspecialchars($layer['name'], ENT_XML1 | ENT_QUOTES)."\">\n";
            foreach ($layer['paths'] as $path) {
                $n = count($path['vertices']);
                $words = 'M '.$place($path['vertices'][0][0], $path['vertices'][0][1]);
                for ($k = 0; $k < ($path['closed'] ? $n : $n - 1); $k++) {
                    [$x, $y, $bulge] = $path['vertices'][$k];
                    [$u, $v] = $path['vertices'][($k + 1) % $n];
                    if ($bulge === 0.0) {
                        $words .= ' L '.$place($u, $v);

                        continue;
                    }
                    $radius = self::number($mm * hypot($u - $x, $v - $y) * (1.0 + $bulge * $bulge) / (4.0 * abs($bulge)));
                    // Seen with Y downwards, against the clock is the other way.
                    $words .= " A $radius $radius 0 ".(abs($bulge) > 1.0 ? 1 : 0).' '.($bulge > 0.0 ? 0 : 1).' '.$place($u, $v);
                }
                $groups .= '    <path d="'.$words.($path['closed'] ? ' Z' : '')."\"/>\n";
            }
            $groups .= "  </g>\n";
        }
        $groups .= self::notes($drawing, $place, $mm * $drawing->letters());
        $size = fn (float $v): string => self::number($v);

        return '<?xml version="1.0" encoding="UTF-8"?>'."\n".'<svg xmlns="http://www.w3.org/2000/svg" width="'.$size($width).'mm" height="'.$size($height).'mm" viewBox="0 0 '.$size($width).' '.$size($height).'" fill="none" stroke="black" stroke-width="'.self::PEN."\">\n$groups</svg>\n";
    }

    /**
     * @param  callable(float, float): string  $place
     * @param  float  $letters  height, mm
     */
    private static function notes(Drawing $drawing, callable $place, float $letters): string
    {
        if ($drawing->notes === []) {
            return '';
        }
        $group = '  <g id="Dimensions" stroke-width="'.self::number(0.5 * self::PEN)."\">\n";
        foreach ($drawing->notes as $note) {
            foreach ($note['lines'] as [$x, $y, $u, $v]) {
                $group .= '    <path d="M '.$place($x, $y).' L '.$place($u, $v)."\"/>\n";
            }
            $at = $place($note['at'][0], $note['at'][1]);
            [$x, $y] = explode(' ', $at);
            $group .= "    <text x=\"$x\" y=\"$y\" transform=\"rotate(".self::number(-$note['turn'])." $at)\" font-family=\"sans-serif\" font-size=\"".self::number(1.4 * $letters).'" text-anchor="middle" fill="black" stroke="none">'.htmlspecialchars($note['words'], ENT_XML1 | ENT_QUOTES)."</text>\n";
        }

        return "$group  </g>\n";
    }

    private static function number(float $v): string
    {
        return Format::plain($v, 6);
    }
}
