<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Architecture;

use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class LayersTest extends TestCase
{
    /** @return array<string, string> path below src => text */
    private function sources(): array
    {
        $root = __DIR__.'/../../src/';
        $sources = [];
        foreach (new \RecursiveIteratorIterator(new \RecursiveDirectoryIterator($root, \FilesystemIterator::SKIP_DOTS)) as $file) {
            $sources[substr((string) $file, strlen($root))] = (string) file_get_contents((string) $file);
        }

        return $sources;
    }

    #[Test]
    public function kernels_depend_on_nothing_but_values_of_geometry_and_spatial_and_linear_kernels(): void
    {
        foreach ($this->sources() as $path => $text) {
            if (! str_contains($path, '/Kernel/')) {
                continue;
            }
            preg_match_all('/^use Emberstone\\\\Core\\\\(\w+(?:\\\\\w+)?)/m', $text, $found);
            foreach ($found[1] as $used) {
                self::assertMatchesRegularExpression('/^(Spatial|Linear|Geometry)|\\\\Kernel$/', $used, $path);
            }
        }
    }

    #[Test]
    public function the_core_knows_no_framework_and_every_file_is_strict_and_every_class_final(): void
    {
        foreach ($this->sources() as $path => $text) {
            self::assertDoesNotMatchRegularExpression('/Illuminate|Symfony|Laravel|\bApp\\\\/', $text, $path);
            self::assertStringContainsString('declare(strict_types=1);', $text, $path);
            self::assertMatchesRegularExpression('/^(final (readonly )?class|interface|enum)|#\[.*\]\nfinal readonly class/m', $text, $path);
        }
    }
}
