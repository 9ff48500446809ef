<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

use Emberstone\Core\Geometry\BoundingBox;

/** Dots glued onto a part: white discs with a black ring, spread over its surface. They show in the colour of points, not in their shape. */
final class MarkerDots
{
    public const WHITE = 0xF4F2EC;

    public const BLACK = 0x141414;

    public const BARE = 0x8C857A;

    /** How far the ring reaches, in radii of the disc. */
    private const RING = 1.5;

    /** At the ring's outer edge the surface may lie so far from the dot's plane, in radii. */
    private const FLAT = 0.35;

    /** @var array<string, list<array{float, float, float}>> by part */
    private array $placed = [];

    public function __construct(public readonly float $radiusMm = 3.0, public readonly float $spacingMm = 35.0, private readonly int $seed = 1)
    {
    }

    /**
     * The middles of the dots on the part: seeded places on the surface, no two nearer than the spacing.
     *
     * @return list<array{float, float, float}>
     */
    public function places(Part $part): array
    {
        return $this->placed[$part->name()] ??= $this->spread($part);
    }

    /** @return list<array{float, float, float}> */
    private function spread(Part $part): array
    {
        [$min, $max] = $part->bounds();
        $surface = ExactSurface::of($part, max(1.0, BoundingBox::of([...$min, ...$max])->diagonal() / 80.0));
        $noise = new Noise($this->seed);
        $order = [];
        for ($v = 0, $n = $surface->vertexCount(); $v < $n; $v++) {
            $order[$v] = $noise->even();
        }
        asort($order);
        $dots = [];
        $p = $surface->positions;
        foreach (array_keys($order) as $v) {
            [$x, $y, $z] = [$p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]];
            if (! $this->sticks($part, $x, $y, $z)) {
                continue;
            }
            foreach ($dots as [$a, $b, $c]) {
                if (($x - $a) ** 2 + ($y - $b) ** 2 + ($z - $c) ** 2 < $this->spacingMm ** 2) {
                    continue 2;
                }
            }
            $dots[] = [$x, $y, $z];
        }

        return $dots;
    }

    /** Whether a dot lies flat there: over an edge or in a corner nobody glues one. */
    private function sticks(Part $part, float $x, float $y, float $z): bool
    {
        $n = [
            $part->distance($x + 1e-2, $y, $z) - $part->distance($x - 1e-2, $y, $z),
            $part->distance($x, $y + 1e-2, $z) - $part->distance($x, $y - 1e-2, $z),
            $part->distance($x, $y, $z + 1e-2) - $part->distance($x, $y, $z - 1e-2),
        ];
        $l = sqrt($n[0] ** 2 + $n[1] ** 2 + $n[2] ** 2);
        if ($l === 0.0) {
            return false;
        }
        $u = abs($n[0]) < 0.6 * $l ? [0.0, $n[2], -$n[1]] : [-$n[2], 0.0, $n[0]];
        $w = 1.0 / sqrt($u[0] ** 2 + $u[1] ** 2 + $u[2] ** 2);
        $u = [$u[0] * $w, $u[1] * $w, $u[2] * $w];
        $v = [($n[1] * $u[2] - $n[2] * $u[1]) / $l, ($n[2] * $u[0] - $n[0] * $u[2]) / $l, ($n[0] * $u[1] - $n[1] * $u[0]) / $l];
        $r = self::RING * $this->radiusMm;
        for ($k = 0; $k < 8; $k++) {
            [$c, $s] = [$r * cos(0.25 * M_PI * $k), $r * sin(0.25 * M_PI * $k)];
            if (abs($part->distance($x + $c * $u[0] + $s * $v[0], $y + $c * $u[1] + $s * $v[1], $z + $c * $u[2] + $s * $v[2])) > self::FLAT * $this->radiusMm) {
                return false;
            }
        }

        return true;
    }

    /**
     * @param  list<float>  $points  flat xyz on the part, in its coordinates
     * @return list<int> a colour a point
     */
    public function colours(Part $part, array $points): array
    {
        $dots = $this->places($part);
        $discSq = $this->radiusMm ** 2;
        $ringSq = (self::RING * $this->radiusMm) ** 2;
        // A dot lies in a cell of the spacing's size; it may touch the cells around.
        $w = 1.0 / $this->spacingMm;
        $cells = [];
        foreach ($dots as [$x, $y, $z]) {
            for ($k = 0; $k < 27; $k++) {
                $cells[((int) floor($x * $w) + intdiv($k, 9) - 1).' '.((int) floor($y * $w) + intdiv($k, 3) % 3 - 1).' '.((int) floor($z * $w) + $k % 3 - 1)][] = [$x, $y, $z];
            }
        }
        $colours = [];
        for ($o = 0, $n = count($points); $o < $n; $o += 3) {
            $colour = self::BARE;
            foreach ($cells[((int) floor($points[$o] * $w)).' '.((int) floor($points[$o + 1] * $w)).' '.((int) floor($points[$o + 2] * $w))] ?? [] as [$x, $y, $z]) {
                $d = ($points[$o] - $x) ** 2 + ($points[$o + 1] - $y) ** 2 + ($points[$o + 2] - $z) ** 2;
                if ($d < $ringSq) {
                    $colour = $d < $discSq ? self::WHITE : self::BLACK;
                    break;
                }
            }
            $colours[] = $colour;
        }

        return $colours;
    }
}
