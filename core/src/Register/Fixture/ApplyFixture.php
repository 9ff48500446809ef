<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Fixture;

use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\Icp;
use Emberstone\Core\Register\LocalPasses;
use Emberstone\Core\Register\Prepare;
use Emberstone\Core\Register\PreparedPass;

/**
 * Places each head's pass by the fixture: no overlap is needed. Where heads do overlap, one that fits none of the others is pointed out: it may have
 * been bumped since.
 *
 * @implements Operation<ApplyFixtureParameters>
 */
final class ApplyFixture implements Operation
{
    /** A head whose surface lies on that of every other with more spread than this, in spacings, has moved. */
    private const BUMPED = 0.5;

    /** Surfaces are compared so far apart, in spacings. */
    private const REACH = 12.0;

    private const LEAST_OVERLAP = 0.08;

    public static function about(): About
    {
        return new About('apply-fixture', Stage::Register, 'Apply fixture', 'Places each head\'s pass where the fixture says the head stands. A head that has been bumped since is pointed out.', 'passes', ApplyFixtureParameters::class, avoid: 'Not after a head was bumped: solve the fixture again.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.5 + 1.5e-5 * $workpiece->pointCount(), 100 + 4e-4 * $workpiece->pointCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $fixture = Fixture::fromArray($parameters->fixture);
        $heads = self::headsOf($workpiece->passes, $fixture);
        $passes = [];
        foreach ($workpiece->passes as $k => $pass) {
            $passes[] = $pass->moved($fixture->heads[$heads[$k]]['transform']);
        }
        $notes = $this->bumped($passes, $progress);

        return new Result(
            $workpiece->withPasses($passes), count($passes).' passes on '.count($fixture->heads).' heads', [],
            ['heads' => array_map(fn (Pass $pass, int $head) => ['pass' => $pass->name, 'head' => $fixture->heads[$head]['name']], $passes, $heads), 'bumped' => count($notes)],
            $notes, $notes === [] ? Outcome::Reached : Outcome::NotConverged,
        );
    }

    /**
     * Which head each pass is of: by name, or in turn, as captures of all heads come in.
     *
     * @param  list<Pass>  $passes
     * @return list<int>
     */
    private static function headsOf(array $passes, Fixture $fixture): array
    {
        if ($passes === []) {
            throw UnsuitableInput::because('There is no pass to place: capture with the heads of the fixture first.');
        }
        $names = array_column($fixture->heads, 'name');
        $byName = array_map(fn (Pass $pass) => array_search($pass->name, $names, true), $passes);
        if (! in_array(false, $byName, true)) {
            return array_map(intval(...), $byName);
        }
        $many = count($fixture->heads);
        if (count($passes) % $many !== 0) {
            throw UnsuitableInput::because(sprintf('The fixture has %d heads, and there are %d passes whose names are not those of the heads. Bring in one pass of each head, in their order, or name them %s.', $many, count($passes), implode(', ', $names)));
        }

        return array_map(fn (int $k) => $k % $many, array_keys($passes));
    }

    /**
     * @param  list<Pass>  $passes
     * @return list<string>
     */
    private function bumped(array $passes, Progress $progress): array
    {
        if (count($passes) < 2) {
            return [];
        }
        $prepared = Prepare::all(LocalPasses::of($passes)->passes, new PartProgress($progress, 0.0, 0.7));
        $spacing = max(array_map(fn (PreparedPass $pass) => $pass->spacing, $prepared));
        $reach = self::REACH * $spacing;
        $fit = new Icp($prepared, $reach, $spacing);
        $spread = array_fill_keys(array_keys($passes), []);
        foreach ($prepared as $i => $a) {
            foreach (array_keys($prepared) as $j) {
                $there = $i === $j ? null : $fit->lies($i, $j, $reach);
                if ($there !== null && $there['near'] >= self::LEAST_OVERLAP * $a->sampleCount() / 3) {
                    $spread[$i][$j] = max($spread[$i][$j] ?? 0.0, $there['scale']);
                    $spread[$j][$i] = max($spread[$j][$i] ?? 0.0, $there['scale']);
                }
            }
            $progress->advance('looking for bumped heads', 0.7 + 0.3 * ($i + 1) / count($prepared));
        }
        // A bumped head fits none of its neighbours; each of those still fits another. With one neighbour alone there is no telling which of the two moved.
        $best = array_map(fn (array $row): float => min($row), array_filter($spread, fn (array $row) => count($row) > 1));
        arsort($best);
        $head = array_key_first($best);
        if ($head === null || $best[$head] < self::BUMPED * $spacing) {
            return [];
        }
        if (min($best) >= self::BUMPED * $spacing) {
            return ['No head agrees with the others ('.Format::mm(min($best)).' apart at the best): is this the fixture of these heads, in this order?'];
        }

        return [sprintf('%s fits the other heads to %s only, where they fit each other to %s. Its head may have been bumped: solve the fixture again, or register these passes.', $passes[$head]->name, Format::mm($best[$head]), Format::mm(min($best)))];
    }
}
