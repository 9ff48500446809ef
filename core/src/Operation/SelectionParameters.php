<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\UnsuitableInput;

/** What `cut-away` and `keep-only` take: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class SelectionParameters
{
    /**
     * @param  array<int, array{target: string, indices?: list<int>, ranges?: list<array{int, int}>, of?: int}>  $selection  for each pass or body the points
     *                                                                                                            (of a pass or cloud) or faces (of a mesh) selected, by index in the raw pass or in the body, and of how
     *                                                                                                            many in all, where that is said
     */
    public function __construct(
        #[Param('Selection', 'What is selected in the view.', picks: 'selection')]
        public array $selection,
    ) {
        foreach ($selection as $k => $part) {
            if (! is_array($part) || ! is_string($part['target'] ?? null) || ! is_array($part['indices'] ?? $part['ranges'] ?? null) || ! is_int($part['of'] ?? 0)) {
                throw InvalidParameter::of('selection', "entry $k needs a target and a list of indices or ranges");
            }
        }
    }

    /** A byte an element, one where selected; null where nothing of the target is named. */
    public function marks(string $target, int $count): ?string
    {
        $ranges = $this->ranges($target, $count);
        if ($ranges === null) {
            return null;
        }
        $marks = str_repeat("\0", $count);
        foreach ($ranges as [$from, $to]) {
            for ($i = $from; $i <= $to; $i++) {
                $marks[$i] = "\1";
            }
        }

        return $marks;
    }

    /**
     * What is selected of a target as ranges, both ends in, in order and none twice.
     *
     * @return list<array{int, int}>|null null where nothing of the target is named
     *
     * @throws UnsuitableInput when it was made on another state of the target, whose numbers mean other places
     * @throws InvalidParameter when a range names elements that the target does not have
     */
    public function ranges(string $target, int $count): ?array
    {
        $parts = array_filter($this->selection, fn (array $part) => $part['target'] === $target);
        foreach ($parts as $part) {
            $of = $part['of'] ?? $count;
            if ($of !== $count) {
                throw UnsuitableInput::because(sprintf('What was selected was selected when there were %s points or faces in all; now there are %s, and the same numbers mean other places. Select anew.', number_format($of), number_format($count)));
            }
        }
        $named = array_merge(...array_map(fn (array $part) => $part['ranges'] ?? array_map(fn (int $i) => [$i, $i], $part['indices'] ?? []), array_values($parts)));
        foreach ($named as $range) {
            [$from, $to] = is_array($range) ? $range + [null, null] : [null, null];
            if (! is_int($from) || ! is_int($to) || $from < 0 || $to >= $count || $from > $to) {
                throw InvalidParameter::of('selection', 'names '.json_encode($range)." of $target, which has $count elements");
            }
        }
        usort($named, fn (array $a, array $b) => $a[0] <=> $b[0]);
        $ranges = [];
        foreach ($named as [$from, $to]) {
            $last = count($ranges) - 1;
            if ($last >= 0 && $from <= $ranges[$last][1] + 1) {
                $ranges[$last][1] = max($ranges[$last][1], $to);
            } else {
                $ranges[] = [$from, $to];
            }
        }

        return $parts === [] ? null : $ranges;
    }
}
