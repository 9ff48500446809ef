<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Architecture;

use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Which rooms of core/src may use which. docs/architecture.md shows the same table; this one is the truth of it. */
final class LayersTest extends TestCase
{
    private const VALUES = ['Foundation', 'Geometry', 'Algorithms', 'Cloud', 'Mesh'];

    private const BELOW_STAGES = [...self::VALUES, 'Exchange', 'Operation', 'Measure', 'Rims', 'Datums', 'Capture', 'Rigs'];

    /** Room => rooms that it may use, besides itself. */
    public const ROOMS = [
        'Foundation' => [],
        'Geometry' => ['Foundation'],
        'Algorithms' => ['Foundation', 'Geometry'],
        'Cloud' => ['Foundation', 'Geometry', 'Algorithms'],
        'Mesh' => ['Foundation', 'Geometry', 'Algorithms'],
        'Exchange' => self::VALUES,
        'Operation' => self::VALUES,
        'Measure' => [...self::VALUES, 'Operation'],
        'Rims' => [...self::VALUES, 'Measure'],
        'Datums' => [...self::VALUES, 'Operation', 'Exchange'],
        'Capture' => [...self::VALUES, 'Exchange'],
        'Rigs' => [...self::VALUES, 'Capture'],
        'Gather' => self::BELOW_STAGES,
        'Register' => self::BELOW_STAGES,
        'Fuse' => self::BELOW_STAGES,
        'Mend' => self::BELOW_STAGES,
        'Lighten' => self::BELOW_STAGES,
        'Orient' => self::BELOW_STAGES,
        'Deliver' => self::BELOW_STAGES,
        'Recipe' => [...self::BELOW_STAGES, 'Gather', 'Register', 'Fuse', 'Mend', 'Lighten', 'Orient', 'Deliver'],
        'Console' => [...self::BELOW_STAGES, 'Deliver', 'Recipe'],
    ];

    /** The same for the folders of Algorithms among themselves. */
    public const ALGORITHMS = [
        'Linear' => [], 'Predicates' => [], 'Parallel' => [], 'HalfEdge' => [],
        'Search' => ['Linear'],
        'Fitting' => ['Linear'],
        'Icp' => ['Linear', 'Search', 'Surface'],
        'Surface' => ['Linear', 'Predicates', 'Parallel', 'Search', 'HalfEdge'],
        'Remeshing' => ['Linear', 'Search', 'HalfEdge', 'Surface'],
        'Quads' => ['Search', 'HalfEdge', 'Surface', 'Remeshing'],
        'Shapes' => ['Linear', 'HalfEdge', 'Surface', 'Fitting'],
        'Brep' => ['Linear', 'HalfEdge', 'Surface', 'Shapes'],
        'Cutting' => ['Linear', 'Predicates', 'Search', 'HalfEdge', 'Surface'],
        'Field' => ['Search', 'HalfEdge', 'Surface', 'Remeshing'],
    ];

    /** @return array<string, string> class below Emberstone\Core => text */
    private static function sources(): array
    {
        $root = __DIR__.'/../../src/';
        $sources = [];
        foreach (new \RecursiveIteratorIterator(new \RecursiveDirectoryIterator($root, \FilesystemIterator::SKIP_DOTS)) as $file) {
            if ($file->getExtension() === 'php') {
                $sources[strtr(substr((string) $file, strlen($root), -4), '/', '\\')] = (string) file_get_contents((string) $file);
            }
        }

        return $sources;
    }

    /** @return list<array{string, string}> who uses whom */
    private static function arrows(): array
    {
        $arrows = [];
        foreach (self::sources() as $class => $text) {
            preg_match_all('/^use Emberstone\\\\Core\\\\([\w\\\\]+?)(?: as \w+)?;/m', $text, $imported);
            // Names written out in full count as well.
            preg_match_all('/(?<!use )\\\\Emberstone\\\\Core\\\\([\w\\\\]+)/', $text, $written);
            foreach ([...$imported[1], ...$written[1]] as $used) {
                $arrows[] = [$class, $used];
            }
        }

        return $arrows;
    }

    private static function room(string $class): string
    {
        return explode('\\', $class)[0];
    }

    #[Test]
    public function every_arrow_between_rooms_stands_in_the_table(): void
    {
        $wrong = [];
        foreach (self::arrows() as [$by, $used]) {
            [$from, $to] = [self::room($by), self::room($used)];
            self::assertArrayHasKey($from, self::ROOMS, "the room $from has no row in the table");
            if ($from !== $to && ! in_array($to, self::ROOMS[$from], true)) {
                $wrong[] = "$by > $used";
            }
        }
        sort($wrong);
        self::assertSame([], array_values(array_unique($wrong)));
    }

    #[Test]
    public function the_folders_of_algorithms_stand_in_an_order_too(): void
    {
        $arrows = 0;
        foreach (self::arrows() as [$by, $used]) {
            if (self::room($by) === 'Algorithms' && self::room($used) === 'Algorithms') {
                [, $from] = explode('\\', $by);
                [, $to] = explode('\\', $used);
                self::assertContains($to, [...self::ALGORITHMS[$from], $from], "$by > $used");
                $arrows++;
            }
        }
        self::assertGreaterThan(20, $arrows);
    }

    #[Test]
    public function the_tables_have_no_circle(): void
    {
        foreach ([self::ROOMS, self::ALGORITHMS] as $table) {
            $placed = [];
            while (count($placed) < count($table)) {
                $free = array_filter($table, fn (array $uses, string $room) => ! isset($placed[$room]) && array_diff($uses, array_keys($placed)) === [], ARRAY_FILTER_USE_BOTH);
                self::assertNotSame([], $free, 'these go round in a circle: '.implode(', ', array_keys(array_diff_key($table, $placed))));
                $placed += $free;
            }
        }
    }

    #[Test]
    public function the_page_on_architecture_shows_the_table(): void
    {
        $page = (string) file_get_contents(__DIR__.'/../../../docs/architecture.md');
        foreach (array_diff_key(self::ROOMS, array_flip(['Gather', 'Register', 'Fuse', 'Mend', 'Lighten', 'Orient', 'Deliver'])) as $room => $uses) {
            $short = $uses === self::VALUES ? ['values'] : (array_diff(self::BELOW_STAGES, $uses) === [] ? ['all below the stages', ...array_diff($uses, self::BELOW_STAGES)] : (array_diff(self::VALUES, $uses) === [] ? ['values', ...array_diff($uses, self::VALUES)] : $uses));
            self::assertStringContainsString(sprintf('| %s | %s |', $room, $short === [] ? 'nothing' : implode(', ', $short)), $page);
        }
    }

    #[Test]
    public function every_folder_of_algorithms_says_what_is_in_it(): void
    {
        foreach (array_keys(self::ALGORITHMS) as $folder) {
            $page = (string) @file_get_contents(__DIR__."/../../src/Algorithms/$folder/README.md");
            foreach (glob(__DIR__."/../../src/Algorithms/$folder/*.php") ?: [] as $file) {
                self::assertStringContainsString('`'.basename($file, '.php').'`', $page, "Algorithms/$folder/README.md");
            }
        }
    }

    #[Test]
    public function every_type_says_at_its_head_what_it_is(): void
    {
        foreach (self::sources() as $class => $text) {
            self::assertMatchesRegularExpression('~\*/\s*\n(?:#\[[^\n]*\]\n)*(?:final |readonly |abstract )*(?:class|interface|enum) ~', $text, "$class has no docblock at its head");
        }
    }

    #[Test]
    public function the_core_knows_no_framework_and_every_file_is_strict_and_every_class_final(): void
    {
        foreach (self::sources() as $class => $text) {
            self::assertDoesNotMatchRegularExpression('/Illuminate|Symfony|Laravel|\bApp\\\\/', $text, $class);
            self::assertStringContainsString('declare(strict_types=1);', $text, $class);
            self::assertMatchesRegularExpression('/^(final (readonly )?class|interface|enum)|#\[.*\]\nfinal readonly class/m', $text, $class);
        }
    }
}
