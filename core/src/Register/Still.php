<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Operation\Pass;

/** Which passes do not move: the reference (the first one unless named) and the locked ones. */
final class Still
{
    /**
     * @param  list<Pass>  $passes
     * @param  array<int, mixed>  $locked  names or ids
     * @return list<int> indices, at least one and not all
     *
     * @throws InvalidParameter when a name is not one of the passes'
     * @throws UnsuitableInput when nothing is left that may move
     */
    public static function of(array $passes, ?string $reference, array $locked): array
    {
        $still = $reference === null && $locked !== [] ? [] : [$reference === null ? 0 : self::index($passes, 'reference', $reference)];
        foreach ($locked as $wanted) {
            $still[] = self::index($passes, 'locked', $wanted);
        }
        $still = array_values(array_unique($still));
        if (count($still) === count($passes)) {
            throw UnsuitableInput::because('Every pass is locked or the reference; unlock the one that may move.');
        }

        return $still;
    }

    /**
     * @param  list<Pass>  $passes
     *
     * @throws InvalidParameter when no pass is of that name or number
     */
    public static function index(array $passes, string $parameter, mixed $wanted): int
    {
        foreach ($passes as $k => $pass) {
            if ($pass->id === $wanted || $pass->name === $wanted) {
                return $k;
            }
        }
        throw InvalidParameter::of($parameter, 'names '.json_encode($wanted).', but the passes are '.implode(', ', array_map(fn (Pass $pass) => $pass->name, $passes)));
    }
}
