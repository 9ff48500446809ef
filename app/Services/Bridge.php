<?php

declare(strict_types=1);

namespace App\Services;

use Emberstone\Core\Capture\Frame;
use Emberstone\Core\Rigs\Catalogue as Rigs;
use Emberstone\Core\Rigs\LiveScan;
use Emberstone\Core\Rigs\MarkerDots;
use Emberstone\Core\Rigs\Surface;

/**
 * Stands in for a device: makes frames with a simulated scanner, hands each to the capture over the same protocol, and does as it is told.
 *
 * @phpstan-type Reply array{do: string, look: list<float>|null, spray: bool}
 */
final class Bridge
{
    private const PAUSE_US = 200_000;

    /**
     * @param  array<string, mixed>  $scanner
     * @param  callable(Frame): Reply  $send
     * @param  callable(): Reply  $ask
     * @param  callable(): mixed  $end  told when the scanner has made all its stops
     */
    public static function run(array $scanner, callable $send, callable $ask, callable $end): void
    {
        $scan = new LiveScan(
            Rigs::part($scanner['part']), $scanner['rig'], ($scanner['spray'] ?? false) ? Surface::Matt : Surface::from($scanner['surface'] ?? 'matt'),
            ($scanner['dots'] ?? false) ? new MarkerDots((float) ($scanner['dotRadius'] ?? 3.0), (float) ($scanner['dotSpacing'] ?? 35.0)) : null, (int) ($scanner['seed'] ?? 1),
        );
        $reply = $ask();
        while ($reply['do'] !== 'end') {
            if ($reply['spray']) {
                $scan->spray();
            }
            if ($reply['look'] !== null) {
                $scan->lookFrom([$reply['look'][0], $reply['look'][1], $reply['look'][2]]);
            }
            if ($reply['do'] === 'pause') {
                $scan->breakOff();
                usleep(self::PAUSE_US);
                $reply = $ask();

                continue;
            }
            $frame = $scan->next();
            if ($frame === null) {
                $end();

                return;
            }
            $reply = $send($frame);
        }
    }
}
