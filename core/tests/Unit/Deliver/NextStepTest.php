<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver;

use Emberstone\Core\Deliver\NextStep;
use Emberstone\Core\Recipe\Catalogue;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class NextStepTest extends TestCase
{
    private const KEYS = ['closed' => 'fill-holes', 'sound' => 'repair', 'scale' => 'confirm-scale', 'oriented' => 'set-frame', 'light' => 'decimate', 'faithful' => 'register', 'measured' => 'fuse'];

    /** @return list<array{key: string, label: string, state: string, figure: string, fix: string|null}> */
    private static function card(string ...$bad): array
    {
        return array_map(fn (string $key) => ['key' => $key, 'label' => $key, 'state' => in_array($key, $bad, true) ? 'bad' : 'good', 'figure' => '3', 'fix' => in_array($key, $bad, true) ? self::KEYS[$key] : null], array_keys(self::KEYS));
    }

    #[Test]
    public function it_leads_from_raw_passes_to_a_part_that_is_handed_over(): void
    {
        $next = fn (int $passes, int $datums, array $done, ?array $lines) => NextStep::of($passes, $datums, $done, $lines)['operation'] ?? null;
        self::assertNull($next(0, 0, [], null));
        self::assertSame('drop-base', $next(8, 0, ['import'], null));
        self::assertSame('register', $next(8, 0, ['import', 'drop-base'], null));
        self::assertSame('fuse', $next(8, 0, ['drop-base', 'register'], null));
        self::assertSame('fuse', $next(8, 0, ['register'], null), 'whoever has registered with the table had a reason');
        self::assertSame('fuse', $next(1, 0, ['drop-base'], null));
        self::assertSame('fill-holes', $next(8, 0, ['fuse'], self::card('closed', 'sound', 'scale', 'oriented')));
        self::assertSame('repair', $next(8, 0, ['fuse'], self::card('sound', 'oriented')));
        self::assertSame('add-datum', $next(8, 0, ['fuse'], self::card('oriented')));
        self::assertSame('add-datum', $next(8, 1, ['fuse'], self::card('oriented')));
        self::assertSame('set-frame', $next(8, 2, ['fuse'], self::card('oriented', 'light')));
        self::assertSame('decimate', $next(8, 2, ['fuse'], self::card('light')));
        self::assertSame('deliver', $next(8, 2, ['fuse'], self::card()));
    }

    #[Test]
    public function what_no_step_mends_is_not_asked_for_for_ever(): void
    {
        self::assertSame('deliver', NextStep::of(8, 2, ['fuse'], self::card('faithful', 'measured'))['operation'] ?? null);
    }

    #[Test]
    public function loose_pieces_go_before_their_rims_are_closed(): void
    {
        $lines = array_map(fn (array $line) => $line['key'] === 'sound' ? ['fix' => 'keep-pieces'] + $line : $line, self::card('closed', 'sound'));
        self::assertSame('keep-pieces', NextStep::of(8, 0, ['fuse'], $lines)['operation'] ?? null);
    }

    #[Test]
    public function every_step_that_it_names_is_in_the_catalogue(): void
    {
        foreach ([[8, []], [8, ['drop-base']], [1, ['drop-base']]] as [$passes, $done]) {
            self::assertContains(NextStep::of($passes, 0, $done, null)['operation'] ?? '', Catalogue::names());
        }
        self::assertContains(NextStep::of(1, 0, [], self::card('oriented'))['operation'] ?? '', Catalogue::names());
        self::assertContains(NextStep::of(1, 0, [], self::card())['operation'] ?? '', Catalogue::names());
    }
}
