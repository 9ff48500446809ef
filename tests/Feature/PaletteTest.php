<?php

declare(strict_types=1);

namespace Tests\Feature;

use Emberstone\Core\Deliver\Handover\RawDeviation;
use Emberstone\Core\Mesh\EvidenceColours;
use Emberstone\Core\Mesh\TriangleMesh;
use PHPUnit\Framework\Attributes\Test;
use Tests\TestCase;

/** Files and reports show things in the colours of the window: what stands in both is held to be the same. */
final class PaletteTest extends TestCase
{
    #[Test]
    public function what_was_made_up_and_how_far_points_lie_off_have_the_colours_of_the_view(): void
    {
        $palette = (string) file_get_contents(base_path('resources/js/viewport/palette.ts'));
        foreach (['MEASURED' => TriangleMesh::MEASURED, 'FILLED' => TriangleMesh::FILLED, 'RESHAPED' => TriangleMesh::MADE] as $name => $mark) {
            self::assertSame(1, preg_match("/export const $name = 0x([0-9a-f]{6})/", $palette, $found), $name);
            self::assertSame($found[1] ?? '', vsprintf('%02x%02x%02x', EvidenceColours::rgb($mark)), $name);
        }
        self::assertSame(1, preg_match('/export const DIVERGING = \[([^\]]+)\]/', $palette, $found));
        self::assertSame(array_map(fn (string $hex) => intval(trim($hex), 16), explode(',', $found[1] ?? '')), RawDeviation::SCALE);
    }
}
