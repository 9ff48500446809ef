<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Architecture;

use FilesystemIterator;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;
use RecursiveDirectoryIterator;
use RecursiveIteratorIterator;
use ReflectionClass;
use SplFileInfo;

/** A function of more than 80 lines is a kernel that is written out for speed, and is named here; all others are split. */
final class FunctionLengthTest extends TestCase
{
    private const LINES = 80;

    /** Loops over all points or faces whose calls would cost more than their work. */
    private const KERNELS = [
        'Algorithms\Field\DualSurface::build', 'Algorithms\Field\Sharpen::project', 'Algorithms\Field\Splat::slab',
        'Algorithms\HalfEdge\Topology::twins',
        'Algorithms\Icp\FpfhDescriptors::of', 'Algorithms\Icp\IcpEquations::pair', 'Algorithms\Icp\SurfacePatches::add',
        'Algorithms\Quads\CrossField::round', 'Algorithms\Quads\PositionField::round',
        'Algorithms\Remeshing\MeshDenoising::betweenEdges', 'Algorithms\Remeshing\QuadricCollapse::collapse', 'Algorithms\Remeshing\RimTriangulation::flattest',
        'Algorithms\Search\KdTree::of', 'Algorithms\Search\PointGrid::neighbourhoods', 'Algorithms\Search\TriangleBvh::closest', 'Algorithms\Search\TriangleBvh::firstAlong', 'Algorithms\Search\TriangleTree::split',
        'Algorithms\Surface\Intersections::among',
        'Rigs\BearingPedestal::body', 'Rigs\RangeCamera::render',
    ];

    #[Test]
    public function what_is_no_written_out_kernel_is_no_longer_than_a_screen(): void
    {
        $root = dirname(__DIR__, 3);
        $long = [];
        foreach (["$root/core/src" => 'Emberstone\Core\\', "$root/app" => 'App\\'] as $folder => $namespace) {
            /** @var SplFileInfo $file */
            foreach (new RecursiveIteratorIterator(new RecursiveDirectoryIterator($folder, FilesystemIterator::SKIP_DOTS)) as $file) {
                $class = $namespace.str_replace('/', '\\', substr($file->getPathname(), strlen($folder) + 1, -4));
                if ($file->getExtension() !== 'php' || ! class_exists($class)) {
                    continue;
                }
                foreach ((new ReflectionClass($class))->getMethods() as $method) {
                    if ($method->class === $class && $method->getFileName() === $file->getPathname() && $method->getEndLine() - $method->getStartLine() - 1 > self::LINES) {
                        $long[] = str_replace('Emberstone\Core\\', '', "$class::{$method->name}");
                    }
                }
            }
        }
        self::assertEqualsCanonicalizing(self::KERNELS, $long, 'split it; or, where it is a kernel, name it; and take out what is short by now');
    }
}
