<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Diagnosis;

use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Measure\SizeCheck;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Register\Coarse\AssemblyScore;
use Emberstone\Core\Register\Coarse\ShapePlaces;
use Emberstone\Core\Register\Icp;
use Emberstone\Core\Register\Prepare;
use Emberstone\Core\Register\PreparedPass;

/**
 * What may be wrong with passes that do not come together, or do so for the wrong reason, in words with what to do.
 *
 * @internal
 */
final readonly class InputDiagnostics
{
    /** Places, spread over two passes, at which their points are compared. */
    private const COMPARED = 60;

    /** Share of the samples of a flat pass that may lie farther from a plane than FLAT. */
    private const OFF = 0.02;

    /** Spacings within which the samples of a flat pass lie on a plane. */
    private const FLAT = 0.6;

    /** Number of other passes that a mirrored pass is tried on. */
    private const TRIED = 6;

    /** Share in common with another pass, with which a mirrored one fits it. */
    private const SHARE = 0.15;

    private const MIRRORED = 'runs from point to point the other way round than the other passes do, as in a mirror. Unless another scanner took it, an axis of its file runs the wrong way: write the file anew.';

    /** Factor: how much more support a mirrored pass must have than the pass as it is, to be told as mirrored. */
    private const CLEARLY = 2.0;

    /**
     * @param  list<Pass>  $passes  as they came
     * @param  list<PreparedPass>  $prepared
     * @param  list<float>  $scales  millimetres of a number of each pass' file, which tell the unit it was read in
     */
    public function __construct(
        private array $passes,
        private array $prepared,
        private array $scales = [],
    ) {
    }

    /** @return list<string> what the passes tell of themselves, wherever they stand: the same points twice, points the other way round */
    public function inThemselves(): array
    {
        $notes = array_map(fn (int $k) => "{$this->passes[$k]->name} ".self::MIRRORED, $this->reversed());
        foreach ($this->twins() as $b => $a) {
            $notes[] = "{$this->passes[$b]->name} holds the same points as {$this->passes[$a]->name}, which count twice now: leave one of the two out.";
        }

        return $notes;
    }

    /** @return array<int, int> passes that hold the same points as one before them, with that one, wherever they stand */
    public function twins(): array
    {
        $twins = $some = [];
        foreach ($this->passes as $j => $b) {
            for ($i = 0; $i < $j && ! isset($twins[$j]); $i++) {
                // Few are as many as another, and only those are read.
                if ($this->passes[$i]->count() === $b->count() && self::isSame($some[$i] ??= self::some($this->passes[$i]), $some[$j] ??= self::some($b))) {
                    $twins[$j] = $i;
                }
            }
        }

        return $twins;
    }

    /** @return list<int> the few passes whose points run the other way round than those of the others */
    private function reversed(): array
    {
        $turns = array_map(fn (Pass $pass) => ScanOrder::turn($pass->cloud()), $this->passes);
        $left = array_keys($turns, 1, true);
        $right = array_keys($turns, -1, true);
        [$few, $most] = count($left) < count($right) ? [$left, $right] : [$right, $left];

        return 2 * count($few) <= count($most) ? $few : [];
    }

    /**
     * Are the ways from point to point as long in both?
     *
     * @param  array<int, float>  $p
     * @param  array<int, float>  $q
     */
    private static function isSame(array $p, array $q): bool
    {
        $far = 0.0;
        $most = 0.0;
        for ($o = 3, $e = count($p); $o < $e; $o += 3) {
            $here = Vector3::length(Vector3::minus(array_slice($p, $o, 3), array_slice($p, 0, 3)));
            $there = Vector3::length(Vector3::minus(array_slice($q, $o, 3), array_slice($q, 0, 3)));
            $far = max($far, $here);
            $most = max($most, abs($here - $there));
        }

        // As files in single precision keep them.
        return $far > 0.0 && $most < 1e-5 * $far;
    }

    /** @return list<float> the first point of a pass and some evenly chosen others, those cut away too, flat, mm */
    private static function some(Pass $pass): array
    {
        $p = $pass->allCloud()->positions;
        $some = [];
        for ($o = 0, $e = count($p), $step = 3 * max(1, intdiv($e, 3 * self::COMPARED)); $o < $e; $o += $step) {
            array_push($some, $p[$o], $p[$o + 1], $p[$o + 2]);
        }

        return $some;
    }

    /** Does all that a pass saw lie on one plane? */
    public function isFlat(int $which): bool
    {
        $pass = $this->prepared[$which];
        ['centre' => $centre, 'vectors' => [$normal]] = Symmetric3::ofPoints($pass->samples);
        $off = 0;
        for ($o = 0, $e = count($pass->samples); $o < $e; $o += 3) {
            $off += abs(Vector3::dot($normal, Vector3::minus(array_slice($pass->samples, $o, 3), $centre))) > self::FLAT * $pass->spacing ? 1 : 0;
        }

        return $off <= self::OFF * $pass->sampleCount();
    }

    /**
     * Why passes may have found no place among the others; empty where nothing tells.
     *
     * @param  list<int>  $missing
     * @param  bool  $mirrored  also whether they would have one if they were mirrored, which takes some seconds
     */
    public function reasons(array $missing, bool $mirrored): string
    {
        $reasons = $this->inOtherUnits();
        foreach (array_diff($this->reversed(), array_keys($reasons)) as $k) {
            $reasons[$k] = "{$this->passes[$k]->name} ".self::MIRRORED;
        }
        $others = array_diff($missing, array_keys($reasons));
        // Where some that are missing do not fit mirrored either, too little was seen in common: then one that does so does it by chance.
        if ($mirrored && $others !== [] && count($missing) < count($this->passes) - count($missing) && array_filter($others, fn (int $k) => ! $this->isMirrored($k, $missing)) === []) {
            foreach ($others as $k) {
                $reasons[$k] = "{$this->passes[$k]->name} fits when it is mirrored: an axis of its file runs the wrong way. Write the file anew.";
            }
        }

        return implode('', array_map(fn (string $reason) => " $reason", array_intersect_key($reasons, array_flip($missing))));
    }

    /** @return array<int, string> by pass, what speaks for another unit than it was read in */
    public function inOtherUnits(): array
    {
        $sizes = [];
        foreach ($this->prepared as $k => $pass) {
            $factor = $this->scales[$k] ?? $this->passes[$k]->scale;
            $unit = array_values(array_filter(Unit::cases(), fn (Unit $unit) => abs($unit->inMillimetres() / $factor - 1.0) < 1e-3))[0] ?? Unit::Millimetre;
            $sizes[$k] = ['sizeMm' => 2.0 * $pass->size(), 'unit' => $unit];
        }
        $reasons = [];
        foreach (SizeCheck::oddOnes($sizes) as $k => ['unit' => $unit, 'times' => $times]) {
            $reasons[$k] = sprintf('%s is %s across where the others are some %s: set its unit to %s.', $this->passes[$k]->name, Format::mm($sizes[$k]['sizeMm']), Format::mm($sizes[$k]['sizeMm'] * $times), $unit->value);
        }

        return $reasons;
    }

    /** @param  list<int>  $missing */
    private function isMirrored(int $which, array $missing): bool
    {
        $pass = $this->passes[$which];
        $p = $pass->keptCloud()->positions;
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            $p[$o] = -$p[$o];
        }
        $sensor = $pass->keptCloud()->sensorOrigin;
        $mirrored = Prepare::all([new Pass($pass->id, $pass->name, PointCloud::fromFlat($p, [], [], $sensor === null ? null : [-$sensor[0], $sensor[1], $sensor[2]]), $pass->transform)], new NoProgress)[0];
        $others = array_slice(array_values(array_diff(array_keys($this->passes), $missing)), 0, self::TRIED);
        $all = [$mirrored, $this->prepared[$which], ...array_map(fn (int $k) => $this->prepared[$k], $others)];
        $spacing = max(array_map(fn (PreparedPass $one) => $one->spacing, $all));
        $fit = new Icp($all, 5.0 * $spacing, 2.5 * $spacing);
        $standing = new AssemblyScore($fit, $all, $spacing);
        $places = new ShapePlaces($fit, $all, $standing, array_map(fn (int $k) => [$k], array_keys($all)));
        $tasks = [];
        foreach (array_slice(array_keys($all), 2) as $on) {
            foreach ([0, 1] as $one) {
                $tasks[] = function () use ($places, $standing, $mirrored, $one, $on): string {
                    $sound = array_filter($places->of($one, $on, false), fn (array $place) => $standing->isSound($place['pairs'], self::SHARE * $mirrored->sampleCount() / 3.0));

                    return (string) max([0.0, ...array_map(fn (array $place) => $standing->support($place['pairs']), $sound)]);
                };
            }
        }
        $support = [0.0, 0.0];
        foreach (Fork::map($tasks, Cores::count()) as $k => $much) {
            $support[$k % 2] = max($support[$k % 2], (float) $much);
        }

        // A part that looks nearly the same in a mirror fits either way.
        return $support[0] > 0.0 && $support[0] > self::CLEARLY * $support[1];
    }
}
