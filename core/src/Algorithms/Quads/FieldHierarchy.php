<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Quads;

/**
 * Ever coarser pictures of a mesh: on the coarsest a field is settled at once over the whole surface, the finer ones only refine it.
 *
 * Source    Jakob, Tarini, Panozzo & Sorkine-Hornung 2015, "Instant Field-Aligned Meshes", section 4.2: neighbours are matched in pairs, those first that look the same way and stand for as much.
 * Cost      all levels together about twice the finest.
 *
 * @internal
 */
final class FieldHierarchy
{
    /** A level that shrinks to more than this share of the one before is the last: what is left are pieces that do not hang together. */
    private const LEAST_GAIN = 0.95;

    /** @var list<FieldLevel> finest first */
    public readonly array $levels;

    public function __construct(FieldLevel $finest)
    {
        $levels = [$finest];
        for ($level = $finest; $level->count() > 1; $level = $coarser) {
            $coarser = self::coarser($level);
            if ($coarser->count() > self::LEAST_GAIN * $level->count()) {
                break;
            }
            $levels[] = $coarser;
        }
        $this->levels = $levels;
    }

    /** Settles what the finest level is held to on the coarser ones too: where several vertices become one, the first that is held counts. */
    public function spreadConstraints(): void
    {
        for ($k = 1; $k < count($this->levels); $k++) {
            [$fine, $coarse] = [$this->levels[$k - 1], $this->levels[$k]];
            $coarse->along = $coarse->held = [];
            foreach ($fine->along as $v => $direction) {
                $p = $fine->parent[$v];
                $flat = FieldLevel::inPlane(...[...$direction, array_slice($coarse->normals, 3 * $p, 3)]);
                if ($flat !== null) {
                    $coarse->along[$p] ??= $flat;
                }
            }
            foreach ($fine->held as $v => $place) {
                $coarse->held[$fine->parent[$v]] ??= $place;
            }
        }
    }

    private static function coarser(FieldLevel $level): FieldLevel
    {
        $n = $level->count();
        $N = $level->normals;
        $A = $level->areas;
        $score = [];
        for ($i = 0; $i < $n; $i++) {
            for ($e = $level->first[$i]; $e < $level->first[$i + 1]; $e++) {
                $j = $level->to[$e];
                if ($j > $i) {
                    $dot = $N[3 * $i] * $N[3 * $j] + $N[3 * $i + 1] * $N[3 * $j + 1] + $N[3 * $i + 2] * $N[3 * $j + 2];
                    $score[$i << 32 | $j] = $dot * ($A[$i] > $A[$j] ? $A[$j] / $A[$i] : $A[$i] / max(1e-300, $A[$j]));
                }
            }
        }
        arsort($score);
        $parent = array_fill(0, $n, -1);
        $members = [];
        foreach ($score as $pair => $_) {
            $i = $pair >> 32;
            $j = $pair & 0xFFFFFFFF;
            if ($parent[$i] < 0 && $parent[$j] < 0) {
                $parent[$i] = $parent[$j] = count($members);
                $members[] = [$i, $j];
            }
        }
        foreach ($parent as $i => $p) {
            if ($p < 0) {
                $parent[$i] = count($members);
                $members[] = [$i];
            }
        }
        $level->parent = $parent;
        $positions = $normals = $areas = $first = $to = $weight = [];
        foreach ($members as $p => $those) {
            $x = $y = $z = $nx = $ny = $nz = $area = 0.0;
            $near = [];
            foreach ($those as $i) {
                $a = max(1e-300, $A[$i]);
                $x += $a * $level->positions[3 * $i];
                $y += $a * $level->positions[3 * $i + 1];
                $z += $a * $level->positions[3 * $i + 2];
                $nx += $a * $N[3 * $i];
                $ny += $a * $N[3 * $i + 1];
                $nz += $a * $N[3 * $i + 2];
                $area += $a;
                for ($e = $level->first[$i]; $e < $level->first[$i + 1]; $e++) {
                    $q = $parent[$level->to[$e]];
                    if ($q !== $p) {
                        $near[$q] = ($near[$q] ?? 0.0) + $level->weight[$e];
                    }
                }
            }
            array_push($positions, $x / $area, $y / $area, $z / $area);
            $length = sqrt($nx * $nx + $ny * $ny + $nz * $nz);
            if ($length > 0.0) {
                array_push($normals, $nx / $length, $ny / $length, $nz / $length);
            } else {
                array_push($normals, ...array_slice($N, 3 * $those[0], 3));
            }
            $areas[] = $area;
            $first[] = count($to);
            foreach ($near as $q => $w) {
                $to[] = $q;
                $weight[] = $w;
            }
        }
        $first[] = count($to);

        return new FieldLevel($positions, $normals, $areas, $first, $to, $weight);
    }
}
