<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\MakesNew;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Makes a working copy: a body of its own for each pass or body named, which stay as they are.
 *
 * @implements Operation<ItemsParameters>
 */
final class Copy implements MakesNew, Operation
{
    public static function about(): About
    {
        return new About('copy', Stage::Gather, 'Work on a copy', 'Makes a body of its own of a pass or body; the original stays as it is.', 'any', ItemsParameters::class, avoid: 'Not to be safe: every step can be undone.');
    }

    /** @return list<string>|null */
    public static function makes(object $parameters, ?array $on): ?array
    {
        return $on === null ? null : array_map(fn (string $name) => "$name, copy", $on);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.2 + 2e-7 * $workpiece->pointCount(), 50 + 5e-5 * $workpiece->pointCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $parameters->check($workpiece);
        $taken = array_map(fn (Body $body) => $body->name, $workpiece->bodies);
        $copies = [];
        foreach ([...$workpiece->passes, ...$workpiece->bodies] as $one) {
            if (! $parameters->has($one)) {
                continue;
            }
            for ($k = 1, $name = "$one->name, copy"; in_array($name, $taken, true); $name = "$one->name, copy ".++$k);
            $taken[] = $name;
            $copies[] = new Body($name, $name, $one instanceof Body ? $one->geometry : $one->keptCloud(), $one->transform, scale: $one instanceof Body ? $one->scale : 1.0);
        }
        if ($copies === []) {
            throw UnsuitableInput::because('A datum is not copied this way; name a pass or a body.');
        }

        return new Result($workpiece->withBodies([...$workpiece->bodies, ...$copies]), count($copies) === 1 ? $copies[0]->name : count($copies).' copies', ['bodies' => count($workpiece->bodies)], ['bodies' => count($workpiece->bodies) + count($copies)]);
    }
}
