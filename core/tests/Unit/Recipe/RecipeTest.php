<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Recipe;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Recipe\Recipe;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class RecipeTest extends TestCase
{
    #[Test]
    public function reads_the_example_of_the_contract(): void
    {
        $recipe = Recipe::fromJson('{"recipe": 1, "unit": "mm", "steps": [{"op": "register", "coarse": "auto", "maxDistance": 6.0}, {"op": "remove-outliers", "neighbours": 16, "deviations": 2.5}, {"op": "fuse", "voxel": 0.8}, {"op": "keep-pieces", "largest": 1}, {"op": "fill-holes", "shape": "tangent"}, {"op": "decimate", "ratio": 0.1}]}');
        self::assertCount(6, $recipe->steps);
    }

    #[Test]
    public function datums_of_every_making_are_steps(): void
    {
        $recipe = Recipe::fromJson((string) json_encode(['recipe' => 1, 'steps' => [
            ['op' => 'resolve-double-skin', 'gap' => 0.8],
            ['op' => 'thin', 'density' => 400],
            ['op' => 'add-datum', 'name' => 'base', 'kind' => 'plane', 'seed' => [0, 0, 0], 'angle' => 12],
            ['op' => 'add-datum', 'name' => 'end', 'kind' => 'plane', 'seed' => [0, 30, 52], 'hold' => ['how' => 'square', 'to' => 'base']],
            ['op' => 'add-datum', 'name' => 'bore', 'kind' => 'cylinder', 'seed' => [15, 0, 52], 'hold' => ['how' => 'parallel', 'to' => 'base', 'diameter' => 30]],
            ['op' => 'add-datum', 'name' => 'mirror', 'kind' => 'plane', 'shape' => ['find' => 'mirror', 'nth' => 2]],
            ['op' => 'add-datum', 'name' => 'corner', 'kind' => 'point', 'typed' => ['origin' => [1, 2, 3]]],
            ['op' => 'add-datum', 'name' => 'other', 'construct' => ['how' => 'copy', 'of' => ['bore'], 'shift' => [0, 0, 10]]],
            ['op' => 'set-frame', 'first' => ['datum' => 'base', 'to' => 'XY', 'flip' => false], 'second' => ['datum' => 'bore', 'to' => 'X'], 'third' => ['datum' => 'end', 'to' => 'YZ']],
        ]]));
        self::assertCount(9, $recipe->steps);
    }

    /** @return array<string, array{string, string}> */
    public static function wrong(): array
    {
        $steps = fn (string $step) => '{"recipe":1,"steps":[{"op":"fuse","voxel":1},'.$step.']}';

        return [
            'no json' => ['{', 'is not JSON'],
            'version' => ['{"recipe":2,"steps":[]}', '"recipe": 1'],
            'unknown op' => [$steps('{"op":"melt"}'), 'step 2 (melt): op is "melt"'],
            'unknown parameter' => [$steps('{"op":"fuse","voxel":1,"depth":3}'), 'step 2 (fuse): depth is not a parameter'],
            'missing' => [$steps('{"op":"fuse"}'), 'voxel is required'],
            'range' => [$steps('{"op":"decimate","ratio":1.5}'), 'ratio is 1.5; it must be'],
            'zero' => [$steps('{"op":"fuse","voxel":0}'), 'greater than 0'],
            'type' => [$steps('{"op":"fuse","voxel":"big"}'), 'voxel must be a number'],
            'choice' => [$steps('{"op":"fill-holes","shape":"round"}'), 'flat, tangent, curved'],
            'held by nothing' => [$steps('{"op":"add-datum","name":"a","seed":[0,0,0],"hold":{"how":"square"}}'), 'together with "to"'],
            'two makings' => [$steps('{"op":"add-datum","name":"a","seed":[0,0,0],"shape":{"find":"mirror"}}'), 'exclude each other'],
            'no density' => [$steps('{"op":"thin","density":0}'), 'greater than 0'],
            'unit' => ['{"recipe":1,"unit":"mile","steps":[{"op":"fuse","voxel":1}]}', 'mm, cm, m, in, ft'],
        ];
    }

    #[Test]
    #[DataProvider('wrong')]
    public function a_wrong_recipe_is_refused_naming_step_and_range(string $json, string $words): void
    {
        $this->expectException(InvalidParameter::class);
        $this->expectExceptionMessage($words);
        Recipe::fromJson($json);
    }
}
