<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Operation;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Step;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\ScanBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

/** What a step works on. */
final class StepTest extends TestCase
{
    private static function some(): Workpiece
    {
        return new Workpiece(ScanBuilder::passes(2, 12, 0.02, 3, plate: true), [Body::of('Cap', MeshBuilder::icosphere(3, 10.0)), Body::of('Bush', MeshBuilder::icosphere(3, 4.0)), Body::of('Bolt', MeshBuilder::icosphere(3, 2.0))]);
    }

    /** @return list<int> faces of each body */
    private static function faces(Workpiece $of): array
    {
        return array_map(fn (Body $body) => $body->geometry->faceCount(), $of->bodies);
    }

    #[Test]
    public function one_body_of_several_is_decimated_and_keeps_its_place(): void
    {
        $some = self::some();
        $step = Step::of('decimate', ['ratio' => 0.25, 'on' => ['Bush']]);
        $after = $step($some, new NoProgress)->workpiece;
        self::assertSame([1280, 320, 1280], self::faces($after));
        self::assertSame(['Cap', 'Bush', 'Bolt'], array_map(fn (Body $body) => $body->name, $after->bodies));
        self::assertSame($some->bodies[0], $after->bodies[0]);
        self::assertSame($some->passes, $after->passes);
    }

    #[Test]
    public function a_tag_stands_for_what_a_step_touched_as_far_as_it_suits(): void
    {
        $after = Step::of('decimate', ['ratio' => 0.25, 'on' => ['small']])(self::some(), new NoProgress, ['small' => ['Bush', 'Bolt', 'pass 0']])->workpiece;
        self::assertSame([1280, 320, 320], self::faces($after));
        $copied = Step::of('copy', ['on' => ['small']])(self::some(), new NoProgress, ['small' => ['Bush', 'Bolt']])->workpiece;
        self::assertSame(['Bush, copy', 'Bolt, copy'], array_map(fn (Body $body) => $body->name, array_slice($copied->bodies, 3)));
    }

    #[Test]
    public function what_is_made_never_has_a_name_that_is_taken(): void
    {
        $fuse = Step::of('fuse', ['voxel' => 2.0, 'name' => 'Cap']);
        $twice = $fuse($fuse(self::some(), new NoProgress)->workpiece, new NoProgress)->workpiece;
        self::assertSame(['Cap', 'Bush', 'Bolt', 'Cap-2', 'Cap-3'], array_map(fn (Body $body) => $body->name, $twice->bodies));
        self::assertSame(array_map(fn (Body $body) => $body->id, $twice->bodies), array_unique(array_map(fn (Body $body) => $body->id, $twice->bodies)));
    }

    /** @param  array<string, mixed>  $values */
    #[Test]
    #[TestWith(['decimate', ['ratio' => 0.5, 'on' => ['Lid']], 'on names "Lid", but there are'])]
    #[TestWith(['decimate', ['ratio' => 0.5, 'on' => ['pass 0']], 'on names "pass 0", which is a pass; decimate works on meshes'])]
    #[TestWith(['fuse', ['voxel' => 1.0, 'on' => ['Cap']], 'on names "Cap", which is a mesh; fuse works on passes'])]
    #[TestWith(['decimate', ['ratio' => 0.5, 'on' => []], 'on must be a list of one name or more'])]
    #[TestWith(['decimate', ['ratio' => 0.5, 'on' => 'Cap'], 'on must be a list'])]
    #[TestWith(['decimate', ['ratio' => 0.5, 'on' => [3]], 'on must be a list'])]
    #[TestWith(['decimate', ['ratio' => 0.5, 'tag' => ''], 'tag must be a name'])]
    #[TestWith(['simulate', ['part' => 'bush', 'rig' => 'ring', 'on' => ['Cap']], 'works on no pass and no body'])]
    public function what_cannot_be_worked_on_is_said(string $op, array $values, string $words): void
    {
        $this->expectException(InvalidParameter::class);
        $this->expectExceptionMessage($words);
        Step::of($op, $values)(self::some(), new NoProgress);
    }
}
