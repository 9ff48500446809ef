<?php

declare(strict_types=1);

namespace App\Http\Border;

use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Recipe\Recipe;

/** The description of the application's interface, OpenAPI 3.1, from the table of the border and the parameters of the operations. */
final class OpenApi
{
    /** @return array<string, mixed> */
    public static function description(): array
    {
        $paths = [];
        foreach (Border::all() as $key => $exchange) {
            [$method, $address] = explode(' ', $key);
            $paths["/$address"][strtolower($method)] = self::operation($method, $address, $exchange);
        }

        return [
            'openapi' => '3.1.0',
            'info' => ['title' => 'Emberstone', 'version' => '1', 'description' => 'What the window asks of the server. A session is needed (POST /sign-in), and for all that changes something the header X-CSRF-TOKEN; the bridge of a scanner needs the token of its capture instead.'],
            'paths' => $paths,
            'components' => ['schemas' => array_map(fn (Shape $shape) => $shape->schema(), Shapes::all()) + self::parameters()],
        ];
    }

    /** @return array<string, mixed> */
    private static function operation(string $method, string $address, Exchange $exchange): array
    {
        preg_match_all('/\{(\w+)\}/', $address, $in);
        $parameters = array_map(fn (string $name) => ['name' => $name, 'in' => 'path', 'required' => true, 'schema' => ['type' => in_array($name, ['step', 'member', 'every'], true) ? 'integer' : 'string']], $in[1]);
        $body = [];
        if ($method === 'GET') {
            foreach ($exchange->takes->fields as $name => $field) {
                $parameters[] = ['name' => $name, 'in' => 'query', 'required' => ! $field->isOptional, 'schema' => $field->schema()];
            }
        } elseif ($exchange->takes->fields !== []) {
            $body = ['requestBody' => ['required' => true, 'content' => ['application/json' => ['schema' => $exchange->takes->schema()]]]];
        }
        $answer = ['description' => $exchange->type === '' ? 'Done; nothing to say.' : 'Done.'];
        if ($exchange->type !== '') {
            $answer['content'] = [$exchange->type => $exchange->answers === null ? (object) [] : ['schema' => $exchange->answers->schema()]];
        }
        $refused = ['description' => 'Refused, with words for the person.', 'content' => ['application/json' => ['schema' => ['type' => 'object', 'properties' => ['message' => ['type' => 'string']], 'required' => ['message']]]]];

        return array_filter(['parameters' => $parameters]) + $body + ['responses' => [(string) $exchange->status => $answer, '4XX' => $refused, '5XX' => $refused]];
    }

    /** @return array<string, array<string, mixed>> what each operation takes, under names like DecimateParameters */
    public static function parameters(): array
    {
        $schemas = [];
        foreach (Catalogue::describe() as $operation) {
            $fields = [];
            foreach ($operation['parameters'] as $parameter) {
                $fields[$parameter['name']] = Recipe::schemaOf($parameter);
            }
            $required = array_column(array_filter($operation['parameters'], fn (array $parameter) => $parameter['required']), 'name');
            $schemas[str_replace(' ', '', ucwords(str_replace('-', ' ', $operation['name']))).'Parameters'] = array_filter([
                'type' => 'object', 'title' => $operation['label'], 'description' => $operation['help'], 'properties' => (object) $fields, 'required' => $required,
            ], fn (mixed $part) => $part !== []);
        }

        return $schemas;
    }
}
