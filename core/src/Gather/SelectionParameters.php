<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Operation\InvalidParameter;
use Emberstone\Core\Operation\Param;

final readonly class SelectionParameters
{
    /**
     * @param  array<int, array{target: string, indices?: list<int>, ranges?: list<array{int, int}>}>  $selection  for each pass or body the points
     *                                                                                                            (of a pass or cloud) or faces (of a mesh) selected, by index in the raw pass or in the body
     */
    public function __construct(
        #[Param('Selection', 'What is selected in the view.', picks: 'selection')]
        public array $selection,
    ) {
        foreach ($selection as $k => $part) {
            if (! is_array($part) || ! is_string($part['target'] ?? null) || ! is_array($part['indices'] ?? $part['ranges'] ?? null)) {
                throw InvalidParameter::of('selection', "entry $k needs a target and a list of indices or ranges");
            }
        }
    }

    /** A byte an element, one where selected. */
    public function marks(string $target, int $count): ?string
    {
        $marks = null;
        foreach ($this->selection as $part) {
            if ($part['target'] !== $target) {
                continue;
            }
            $marks ??= str_repeat("\0", $count);
            $ranges = $part['ranges'] ?? array_map(fn (int $i) => [$i, $i], $part['indices'] ?? []);
            foreach ($ranges as [$from, $to]) {
                if (! is_int($from) || ! is_int($to) || $from < 0 || $to >= $count || $from > $to) {
                    throw InvalidParameter::of('selection', "names $from to $to of $target, which has $count elements");
                }
                for ($i = $from; $i <= $to; $i++) {
                    $marks[$i] = "\1";
                }
            }
        }

        return $marks;
    }
}
