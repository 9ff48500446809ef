<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Shapes;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Geometry\Vector3;

/**
 * The faces of a mesh as places of a surface: areas, normals that noise does not turn, and neighbours, told apart into those over a crease and those that go on smoothly.
 *
 * Source    normals averaged with those of neighbours that face nearly the same way, as in Sun, Rosin, Martin & Langbein 2007, eq. 2.
 *
 * @internal
 */
final readonly class FaceField
{
    /** Cosine of the turn between neighbours that is a crease: 40 degrees, more than between the facets of a coarse round. */
    private const CREASE = 0.766;

    private const SMOOTHINGS = 4;

    /** Discs over the mesh in which noise is looked for, and faces of each. */
    private const DISCS = 200;

    private const DISC = 60;

    /** Faces that tell how far flats lie inside of what is round, and triangles of one flat that are looked at. */
    private const MANY_FLATS = 20_000;

    private const LARGE_FLAT = 16;

    /** Turn between neighbours, in radians, that is more than the rounding of their corners. */
    private const TURNS = 1e-4;

    /** Faces that tell how flat an area is meshed. */
    private const PAIRS = 50;

    /**
     * @param  list<float>  $p  flat xyz, mm
     * @param  list<int>  $f  flat faces
     * @param  list<float>  $areas  mm2 a face
     * @param  list<float>  $normals  flat unit normals of the faces, smoothed; zero for a face without area
     * @param  array<int, int>  $twins  see Topology::twins
     * @param  array<int, int>  $smooth  the same, -1 across creases too
     */
    private function __construct(public array $p, public array $f, public array $areas, public array $normals, public array $twins, public array $smooth)
    {
    }

    /**
     * @param  list<float>  $p
     * @param  list<int>  $f
     */
    public static function of(array $p, array $f): self
    {
        $twins = Topology::twins($f);
        $areas = array_values(Measure::areas($p, $f));
        $normals = self::smoothed(Measure::crosses($p, $f), $areas, $twins);

        return new self($p, $f, $areas, $normals, $twins, self::withoutCreases($twins, $normals));
    }

    public function count(): int
    {
        return count($this->areas);
    }

    /**
     * The area of some faces, mm2.
     *
     * @param  list<int>  $faces
     */
    public function area(array $faces): float
    {
        $area = 0.0;
        foreach ($faces as $t) {
            $area += $this->areas[$t];
        }

        return $area;
    }

    /**
     * @param  list<float>  $n  twice the area long
     * @param  list<float>  $areas
     * @param  array<int, int>  $twins
     * @return list<float>
     */
    private static function smoothed(array $n, array $areas, array $twins): array
    {
        for ($o = 0, $e = count($n); $o < $e; $o += 3) {
            $l = sqrt($n[$o] * $n[$o] + $n[$o + 1] * $n[$o + 1] + $n[$o + 2] * $n[$o + 2]);
            $l = $l > 0.0 ? 1.0 / $l : 0.0;
            $n[$o] *= $l;
            $n[$o + 1] *= $l;
            $n[$o + 2] *= $l;
        }
        // A neighbour that faces the same way weighs as much as its area.
        $full = 1.0 / (1.0 - self::CREASE) ** 2;
        for ($round = 0; $round < self::SMOOTHINGS; $round++) {
            $next = $n;
            for ($t = 0, $o = 0; $o < $e; $t++, $o += 3) {
                $x = $n[$o];
                $y = $n[$o + 1];
                $z = $n[$o + 2];
                $w = $areas[$t];
                $sx = $w * $x;
                $sy = $w * $y;
                $sz = $w * $z;
                for ($h = $o; $h < $o + 3; $h++) {
                    if (($g = $twins[$h]) < 0) {
                        continue;
                    }
                    $u = (int) ($g / 3);
                    $g = 3 * $u;
                    $c = $x * $n[$g] + $y * $n[$g + 1] + $z * $n[$g + 2] - self::CREASE;
                    if ($c > 0.0) {
                        $w = $full * $c * $c * $areas[$u];
                        $sx += $w * $n[$g];
                        $sy += $w * $n[$g + 1];
                        $sz += $w * $n[$g + 2];
                    }
                }
                $l = sqrt($sx * $sx + $sy * $sy + $sz * $sz);
                if ($l > 0.0) {
                    $next[$o] = $sx / $l;
                    $next[$o + 1] = $sy / $l;
                    $next[$o + 2] = $sz / $l;
                }
            }
            $n = $next;
        }

        return $n;
    }

    /**
     * @param  array<int, int>  $twins
     * @param  list<float>  $n
     * @return array<int, int>
     */
    private static function withoutCreases(array $twins, array $n): array
    {
        $smooth = $twins;
        foreach ($twins as $h => $g) {
            if ($g > $h) {
                $i = $h - $h % 3;
                $j = $g - $g % 3;
                if ($n[$i] * $n[$j] + $n[$i + 1] * $n[$j + 1] + $n[$i + 2] * $n[$j + 2] < self::CREASE) {
                    $smooth[$h] = $smooth[$g] = -1;
                }
            }
        }

        return $smooth;
    }

    /**
     * Faces around one, in rings, up to some number, not over creases.
     *
     * @param  array<int, int>  $labels  faces of 0 and more are left out
     * @return list<int>
     */
    public function disc(int $seed, int $most, array $labels): array
    {
        $smooth = $this->smooth;
        $disc = [$seed];
        $in = [$seed => true];
        for ($k = 0; $k < count($disc) && count($disc) < $most; $k++) {
            for ($h = 3 * $disc[$k], $e = $h + 3; $h < $e; $h++) {
                if (($g = $smooth[$h]) < 0) {
                    continue;
                }
                $t = (int) ($g / 3);
                if (! isset($in[$t]) && ($labels[$t] ?? -1) < 0) {
                    $in[$t] = true;
                    $disc[] = $t;
                }
            }
        }

        return $disc;
    }

    /** How far vertices lie off a smooth surface, mm: the lower quartile over discs of the root mean square about a sheet of second order. */
    public function noise(): float
    {
        $faces = $this->count();
        $rms = [];
        for ($k = 0; $k < self::DISCS; $k++) {
            $disc = $this->disc(intdiv($k * $faces, self::DISCS), self::DISC, []);
            $value = count($disc) < self::DISC ? null : $this->offSheet($disc);
            $value === null || $rms[] = $value;
        }
        sort($rms);

        return $rms === [] ? 0.0 : $rms[intdiv(count($rms), 4)];
    }

    /**
     * How far the middles of flats lie inside the round surface that their corners lie on, mm: width times turn / 8 over a shared side, where they turn at all; the largest but for a twentieth.
     * Little against the noise of a scan, and all there is to a round surface of a drawing.
     */
    public function sagitta(): float
    {
        [$p, $f, $crosses] = [$this->p, $this->f, Measure::crosses($this->p, $this->f)];
        $found = [];
        for ($t = 0, $e = $this->count(), $step = intdiv($e, self::MANY_FLATS) + 1; $t < $e; $t += $step) {
            // A flat is a triangle, or several in one plane.
            $flat = [$t];
            $sides = [];
            $area = 0.0;
            $seen = [$t => true];
            for ($k = 0; $k < count($flat) && $k < self::LARGE_FLAT; $k++) {
                $area += $this->areas[$flat[$k]];
                for ($h = 3 * $flat[$k]; $h < 3 * $flat[$k] + 3; $h++) {
                    $g = $this->smooth[$h] < 0 ? -1 : intdiv($this->smooth[$h], 3);
                    if ($g < 0 || isset($seen[$g]) || $this->areas[$g] === 0.0 || $this->areas[$flat[$k]] === 0.0) {
                        continue;
                    }
                    [$u, $v] = [3 * $flat[$k], 3 * $g];
                    [$a, $b] = [0.5 / $this->areas[$flat[$k]], 0.5 / $this->areas[$g]];
                    $turn = sqrt(($a * $crosses[$u] - $b * $crosses[$v]) ** 2 + ($a * $crosses[$u + 1] - $b * $crosses[$v + 1]) ** 2 + ($a * $crosses[$u + 2] - $b * $crosses[$v + 2]) ** 2);
                    if ($turn > self::TURNS) {
                        $sides[] = [$h, $turn];
                    } else {
                        $seen[$g] = true;
                        $flat[] = $g;
                    }
                }
            }
            foreach ($sides as [$h, $turn]) {
                [$a, $b] = [3 * $f[$h], 3 * $f[$h % 3 === 2 ? $h - 2 : $h + 1]];
                $long = sqrt(($p[$a] - $p[$b]) ** 2 + ($p[$a + 1] - $p[$b + 1]) ** 2 + ($p[$a + 2] - $p[$b + 2]) ** 2);
                if ($long > 0.0) {
                    // Of a strip the width is its area by its side, of a triangle twice that.
                    $found[] = (count($flat) === 1 ? 2.0 : 1.0) * $area / $long * $turn / 8.0;
                }
            }
        }
        sort($found);

        return $found === [] ? 0.0 : $found[intdiv(19 * count($found), 20)];
    }

    /**
     * How far the flats of a round surface turn it away from where its corners lie, mm: what neighbours turn by times how far their middles are apart; the upper quartile over some faces.
     *
     * @param  list<int>  $faces
     */
    public function flatness(array $faces): float
    {
        [$p, $f, $n, $smooth] = [$this->p, $this->f, $this->normals, $this->smooth];
        $found = [];
        for ($k = 0, $e = count($faces), $step = intdiv($e, self::PAIRS) + 1; $k < $e; $k += $step) {
            for ($h = 3 * $faces[$k], $i = $h; $h < $i + 3; $h++) {
                if (($g = $smooth[$h]) < 0) {
                    continue;
                }
                $j = $g - $g % 3;
                $apart = $turn = 0.0;
                for ($c = 0; $c < 3; $c++) {
                    $apart += (($p[3 * $f[$i] + $c] + $p[3 * $f[$i + 1] + $c] + $p[3 * $f[$i + 2] + $c] - $p[3 * $f[$j] + $c] - $p[3 * $f[$j + 1] + $c] - $p[3 * $f[$j + 2] + $c]) / 3.0) ** 2;
                    $turn += ($n[$i + $c] - $n[$j + $c]) ** 2;
                }
                $found[] = sqrt($apart * $turn);
            }
        }
        sort($found);

        return $found === [] ? 0.0 : $found[intdiv(3 * count($found), 4)];
    }

    /** @param  list<int>  $disc */
    private function offSheet(array $disc): ?float
    {
        $vertices = [];
        $n = [0.0, 0.0, 0.0];
        foreach ($disc as $t) {
            for ($c = 0; $c < 3; $c++) {
                $vertices[$this->f[3 * $t + $c]] = true;
                $n[$c] += $this->areas[$t] * $this->normals[3 * $t + $c];
            }
        }
        if (Vector3::length($n) === 0.0) {
            return null;
        }
        $n = Vector3::unit($n);
        [$u, $v] = Vector3::square($n);
        $middle = array_slice($this->p, 3 * $this->f[3 * $disc[0]], 3);
        $x = $y = $heights = [];
        foreach ($vertices as $w => $_) {
            $r = Vector3::minus(array_slice($this->p, 3 * $w, 3), $middle);
            $x[] = Vector3::dot($r, $u);
            $y[] = Vector3::dot($r, $v);
            $heights[] = Vector3::dot($r, $n);
        }
        $squares = SecondOrder::left($x, $y, $heights);

        return $squares === null ? null : sqrt($squares / max(1, count($heights) - 6));
    }

    /**
     * Corners of faces with the normals of the faces, evenly thinned.
     *
     * @param  list<int>  $faces
     * @return array{points: list<float>, normals: list<float>, weights: list<float>, flatness: float} see flatness()
     */
    public function sample(array $faces, int $most): array
    {
        [$p, $f, $n, $areas] = [$this->p, $this->f, $this->normals, $this->areas];
        $points = $normals = $weights = [];
        $every = max(1, intdiv(3 * count($faces), $most));
        // Every corner of a face in turn, also where the step is a multiple of three.
        for ($k = 0, $i = 0, $e = 3 * count($faces); $i < $e; $i += $every, $k++) {
            $t = $faces[intdiv($i, 3)];
            $v = 3 * $f[3 * $t + $k % 3];
            $points[] = $p[$v];
            $points[] = $p[$v + 1];
            $points[] = $p[$v + 2];
            $normals[] = $n[3 * $t];
            $normals[] = $n[3 * $t + 1];
            $normals[] = $n[3 * $t + 2];
            $weights[] = $areas[$t];
        }

        return ['points' => $points, 'normals' => $normals, 'weights' => $weights, 'flatness' => $this->flatness($faces)];
    }

    /**
     * Of an area the faces that lie some rings from its border, where the rounding of edges does not reach.
     *
     * @param  list<int>  $faces
     * @return list<int>
     */
    public function inner(array $faces, int $rings): array
    {
        $smooth = $this->smooth;
        $in = array_fill_keys($faces, true);
        $rim = $faces;
        for ($ring = 0; $ring < $rings && $rim !== []; $ring++) {
            $gone = [];
            foreach ($rim as $t) {
                for ($h = 3 * $t, $e = $h + 3; $h < $e; $h++) {
                    if ($smooth[$h] < 0 || ! isset($in[(int) ($smooth[$h] / 3)])) {
                        $gone[] = $t;
                        break;
                    }
                }
            }
            foreach ($gone as $t) {
                unset($in[$t]);
            }
            $rim = [];
            foreach ($gone as $t) {
                for ($h = 3 * $t, $e = $h + 3; $h < $e; $h++) {
                    if ($smooth[$h] >= 0 && isset($in[$u = (int) ($smooth[$h] / 3)])) {
                        $rim[$u] = $u;
                    }
                }
            }
        }

        return array_keys($in);
    }
}
