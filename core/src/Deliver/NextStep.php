<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

/** What a technician would do next with a project as it is: the way from raw passes to a part that is handed over. */
final class NextStep
{
    /** Number of datums that a frame usually needs: a face that the part stands on, and a direction. */
    private const FOR_A_FRAME = 2;

    /**
     * @param  list<string>  $done  operations that were carried out and are in force
     * @param  list<array{key: string, label: string, state: string, figure: string, fix: string|null}>|null  $lines  the ready card of the body in question; null while there is no mesh
     * @return array{operation: string, why: string}|null null where there is nothing to work on yet
     */
    public static function of(int $passes, int $datums, array $done, ?array $lines): ?array
    {
        if ($lines === null) {
            return match (true) {
                $passes === 0 => null,
                array_intersect(['drop-base', 'register'], $done) === [] => self::step('drop-base', 'What the part stood on is in the passes still.'),
                $passes > 1 && ! in_array('register', $done, true) => self::step('register', 'The passes do not lie together yet.'),
                default => self::step('fuse', 'The passes are ready to become one mesh.'),
            };
        }
        // What cannot be mended by a step, such as too little that was measured, is not asked for again and again.
        $open = array_values(array_filter($lines, fn (array $line) => $line['state'] !== 'good' && $line['fix'] !== null && ! in_array($line['key'], ['faithful', 'measured'], true)));
        if ($open === []) {
            return self::step('deliver', 'The ready card asks for nothing more.');
        }
        // Loose pieces go before anything is done to their rims.
        $first = array_values(array_filter($open, fn (array $line) => $line['fix'] === 'keep-pieces'))[0] ?? $open[0];
        ['label' => $label, 'figure' => $figure, 'fix' => $fix] = $first;
        if ($first['key'] === 'oriented' && $datums < self::FOR_A_FRAME) {
            return self::step('add-datum', $datums === 0 ? 'A frame needs a face that the part stands on, and a direction.' : 'A frame needs a direction as well: an axis, or another face.');
        }

        return self::step((string) $fix, "$label: $figure.");
    }

    /** @return array{operation: string, why: string} */
    private static function step(string $operation, string $why): array
    {
        return ['operation' => $operation, 'why' => $why];
    }
}
