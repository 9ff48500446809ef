<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;

/** Takes points out of every pass and cloud by a rule; passes keep theirs under a mask. One cloud a core. */
final class Sieve
{
    /**
     * @param  callable(PointCloud, int): string  $rule  from a cloud in its own coordinates (mm) and its index (passes come first) to a byte a point, zero for those that go
     * @param  list<string>  $notes
     *
     * @throws UnsuitableInput when there are no points at all
     */
    public static function apply(Workpiece $workpiece, callable $rule, Progress $progress, string $stage, array $notes = []): Result
    {
        $tasks = [];
        foreach (self::clouds($workpiece) as $k => $cloud) {
            $tasks[] = fn (): string => $rule($cloud(), $k);
        }
        $masks = Fork::map($tasks, Cores::count(), $progress, $stage);
        $before = array_sum(array_map(strlen(...), $masks));
        $gone = array_sum(array_map(fn (string $mask) => substr_count($mask, "\0"), $masks));
        $next = 0;
        $passes = $bodies = [];
        foreach ($workpiece->passes as $pass) {
            $passes[] = $pass->narrowed($masks[$next++]);
        }
        foreach ($workpiece->bodies as $body) {
            $geometry = $body->geometry;
            $bodies[] = $geometry instanceof PointCloud ? $body->pared($geometry->kept($masks[$next++])) : $body;
        }

        return new Result(
            $workpiece->withPasses($passes)->withBodies($bodies),
            '− '.Format::count($gone).' points',
            ['points' => $before],
            ['points' => $before - $gone, 'share' => round($gone / max(1, $before), 5)],
            $notes,
        );
    }

    /**
     * @return non-empty-list<callable(): PointCloud> gives the kept points of each pass and each cloud, in coordinates of their own, mm; asked for one after the other they are not all in memory
     *
     * @throws UnsuitableInput when there are no points
     */
    public static function clouds(Workpiece $workpiece): array
    {
        $clouds = [];
        foreach ($workpiece->passes as $pass) {
            $clouds[] = $pass->keptCloud(...);
        }
        foreach ($workpiece->bodies as $body) {
            if ($body->geometry instanceof PointCloud) {
                $own = $body->own();
                assert($own instanceof PointCloud);
                $clouds[] = fn (): PointCloud => $own;
            }
        }

        return $clouds === [] ? throw UnsuitableInput::because('There are no points to look at; bring in a pass first.') : $clouds;
    }
}
