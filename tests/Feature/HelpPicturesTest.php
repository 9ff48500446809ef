<?php

declare(strict_types=1);

namespace Tests\Feature;

use Emberstone\Core\Recipe\Catalogue;
use PHPUnit\Framework\Attributes\Test;
use Tests\TestCase;

/** The help of the window shows what each operation does: core/bench/help-pictures.php draws it. */
final class HelpPicturesTest extends TestCase
{
    #[Test]
    public function every_operation_has_two_small_pictures_that_differ_and_none_is_left_over(): void
    {
        foreach (Catalogue::names() as $name) {
            $pictures = array_map(fn (string $when) => base_path("resources/js/help/$name-$when.png"), ['before', 'after']);
            foreach ($pictures as $picture) {
                self::assertFileExists($picture, "draw it: core/bin/php-jit core/bench/help-pictures.php resources/js/help $name");
                self::assertSame([144, 108], array_slice(getimagesize($picture) ?: [], 0, 2), $name);
            }
            self::assertFileNotEquals($pictures[0], $pictures[1], $name);
        }
        self::assertCount(2 * count(Catalogue::names()), glob(base_path('resources/js/help/*.png')) ?: []);
    }
}
