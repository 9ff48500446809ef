<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Workpiece;

/** What `remove-unsure` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class RemoveUnsureParameters
{
    public function __construct(
        #[Param('Least confidence', 'Points of which the scanner was less sure than this go, on its own scale.', suggest: 'suggestLeast')]
        public ?float $least = null,
    ) {
    }

    /** A twentieth of all points are less sure than this. */
    public static function suggestLeast(Workpiece $workpiece): ?float
    {
        $all = [];
        foreach ($workpiece->passes as $pass) {
            $confidence = $pass->cloud()->confidence;
            for ($i = 0, $n = count($confidence), $step = intdiv($n, 20000) + 1; $i < $n; $i += $step) {
                $all[] = $confidence[$i];
            }
        }
        if ($all === []) {
            return null;
        }
        sort($all);

        return (float) sprintf('%.3g', $all[intdiv(count($all), 20)]);
    }
}
