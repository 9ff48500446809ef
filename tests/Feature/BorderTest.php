<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Http\Border\Border;
use App\Http\Border\Shape;
use App\Http\Border\Shapes;
use Illuminate\Support\Facades\Route as Routes;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use Tests\TestCase;

/** The table of what every address takes and answers: whole, enforced, and told. Every other test of an address holds its answers to it (TestCase::call). */
final class BorderTest extends TestCase
{
    /** Pages of the window itself, which take nothing. */
    private const PAGES = ['GET sign-in', 'GET /', 'GET account', 'GET projects/{id}'];

    #[Test]
    public function every_address_of_the_application_stands_in_the_table_and_no_other(): void
    {
        $routes = [];
        foreach (Routes::getRoutes() as $route) {
            $methods = count($route->methods()) > 1 ? array_diff($route->methods(), ['HEAD']) : $route->methods();
            foreach ($methods as $method) {
                $routes[] = "$method {$route->uri()}";
            }
        }
        self::assertSame([], array_values(array_diff($routes, array_keys(Border::all()), self::PAGES)), 'addresses that say nothing of what they take');
        self::assertSame([], array_values(array_diff(array_keys(Border::all()), $routes)), 'no such address');
    }

    #[Test]
    public function a_wrong_value_in_any_field_of_any_address_is_refused_in_words(): void
    {
        $project = $this->withOpenBall();
        $values = ['project' => $project->id, 'step' => (string) $project->head_step_id, 'capture' => '', 'member' => '1', 'session' => '', 'token' => str_repeat('0', 64), 'body' => $project->snapshot()['bodies'][0]['id'], 'artefact' => $project->snapshot()['bodies'][0]['id']];
        $asked = 0;
        foreach (Border::all() as $key => $exchange) {
            [$method, $address] = explode(' ', $key);
            if (! str_starts_with($address, 'api/') || str_contains($address, '{capture}')) {
                continue;
            }
            foreach ($exchange->takes->fields as $name => $field) {
                // Checked deeper within, where the words are those of the operation.
                if ($field->kind === 'anything') {
                    continue;
                }
                $wrong = in_array($field->kind, ['list', 'map', 'object'], true) ? 'no list' : [['deep' => true]];
                $answer = $this->json($method, '/'.preg_replace_callback('/\{(\w+)\}/', fn (array $found) => $values[$found[1]], $address).($method === 'GET' ? '?'.http_build_query([$name => $wrong]) : ''), $method === 'GET' ? [] : [$name => $wrong]);
                self::assertSame(422, $answer->getStatusCode(), "$key with a wrong $name");
                self::assertNotSame('', (string) $answer->json('message'), $key);
                $asked++;
            }
        }
        self::assertGreaterThan(30, $asked);
    }

    /** @return array<string, array{Shape, list<mixed>, list<mixed>}> shape, what it takes, what it refuses */
    public static function shapes(): array
    {
        return [
            'text' => [Shape::text(3, 1), ['abc', 'äöü'], ['', 'abcd', 7, null, []]],
            'uuid' => [Shape::uuid(), ['6f1c2b5e-0000-4000-8000-000000000001'], ['6f1c', 5, null]],
            'hash' => [Shape::hash(), [str_repeat('a', 64)], [str_repeat('g', 64), 'a']],
            'whole number' => [Shape::integer(1, 9), [1, 9], [0, 10, 'x', 1.5]],
            'above nothing' => [Shape::number(0, 5, isAbove: true), [0.1, 5], [0, 5.1, 'x']],
            'word of some' => [Shape::choice(['a', 'b,c', 'd"e']), ['a', 'b,c', 'd"e'], ['b', 'c', 'd', 1]],
            'list' => [Shape::listOf(Shape::integer(), 1, 2), [[1], [1, 2]], [[], [1, 2, 3], ['a' => 1], ['x']]],
            'place' => [Shape::numbers(3), [[0, 1.5, -2]], [[0, 1], [0, 1, 2, 3], [0, 1, 'x']]],
            'map' => [Shape::map(Shape::boolean(), 1), [[], ['a' => true]], [['a' => 'x'], ['a' => true, 'b' => true], 5]],
            'object' => [Shape::object(['a' => Shape::integer(), 'b' => Shape::text()->optional()]), [['a' => 1], ['a' => 1, 'b' => 'x']], [[], ['a' => 1, 'b' => 5], 'x']],
            'perhaps nothing' => [Shape::uuid()->nullable(), [null], ['x']],
        ];
    }

    /**
     * @param  list<mixed>  $good
     * @param  list<mixed>  $bad
     */
    #[Test]
    #[DataProvider('shapes')]
    public function a_shape_takes_what_it_says_and_nothing_else(Shape $shape, array $good, array $bad): void
    {
        $rules = Shape::object(['it' => $shape])->rules();
        foreach ($good as $value) {
            self::assertTrue(validator(['it' => $value], $rules)->passes(), json_encode($value).' is taken');
            self::assertSame([], $shape->mistakes($value));
        }
        foreach ($bad as $value) {
            self::assertFalse(validator(['it' => $value], $rules)->passes(), json_encode($value).' is refused');
        }
    }

    #[Test]
    public function mistakes_of_an_answer_say_where_they_are(): void
    {
        $shape = Shape::object(['a' => Shape::listOf(Shape::object(['b' => Shape::integer()])), 'c' => Shape::text()]);
        self::assertSame(['the answer.a.1.b is no integer: "x"', 'the answer has no c', 'the answer has d, which its shape does not know'], $shape->mistakes(['a' => [['b' => 1], ['b' => 'x']], 'd' => 1]));
    }

    #[Test]
    public function the_description_tells_every_address_and_refers_to_nothing_that_is_not_there(): void
    {
        $this->actingAs($this->user());
        $told = $this->getJson('/api/openapi.json')->assertOk()->json();
        self::assertSame('3.1.0', $told['openapi']);
        $many = array_sum(array_map(count(...), $told['paths']));
        self::assertSame(count(Border::all()), $many);
        preg_match_all('~#/components/schemas/(\w+)~', (string) json_encode($told, JSON_UNESCAPED_SLASHES), $refers);
        self::assertSame([], array_values(array_diff(array_unique($refers[1]), array_keys($told['components']['schemas']))));
        self::assertSame(array_keys(Shapes::all()), array_values(array_filter(array_keys($told['components']['schemas']), fn (string $name) => ! str_ends_with($name, 'Parameters'))));
        self::assertSame('number', $told['components']['schemas']['DecimateParameters']['properties']['ratio']['type'][0] ?? $told['components']['schemas']['DecimateParameters']['properties']['ratio']['type']);
        self::assertSame('uuid', $told['paths']['/api/projects/{project}/steps']['post']['requestBody']['content']['application/json']['schema']['properties']['on']['items']['format']);
    }
}
