<?php

declare(strict_types=1);

namespace Tests\Drill;

use GuzzleHttp\Client;
use GuzzleHttp\Cookie\CookieJar;
use GuzzleHttp\Promise\PromiseInterface;
use GuzzleHttp\Promise\Utils;
use Psr\Http\Message\ResponseInterface;
use RuntimeException;

/** Somebody at a browser: signed in, with a session and its token. Every answer is looked at for what no answer may hold. */
final class Person
{
    /** What gives away the inside: a trace, a path of this machine, the text of a query. */
    private const INSIDE = '~#\d+ /|vendor/|/tests/Drill|SQLSTATE|\.php[:(]\d+~';

    private readonly Client $http;

    private readonly string $token;

    /** @var list<string> answers that were errors of ours */
    public array $faults = [];

    public int $asked = 0;

    public function __construct(string $address, string $email, string $password)
    {
        $this->http = new Client(['base_uri' => $address, 'cookies' => new CookieJar, 'http_errors' => false, 'timeout' => 90, 'proxy' => '']);
        $page = (string) $this->http->get('/sign-in')->getBody();
        $this->http->post('/sign-in', ['form_params' => ['_token' => self::tokenIn($page), 'email' => $email, 'password' => $password]]);
        $this->token = self::tokenIn((string) $this->http->get('/')->getBody());
    }

    private static function tokenIn(string $page): string
    {
        return preg_match('/name="(?:_token|csrf-token)"[^>]*(?:value|content)="([^"]+)"/', $page, $found) === 1 ? $found[1] : throw new RuntimeException('The page holds no token.');
    }

    /** @param  array<string, mixed>  $options */
    private function begin(string $method, string $path, array $options): PromiseInterface
    {
        $this->asked++;

        return $this->http->requestAsync($method, "/api$path", $options + ['headers' => ['X-CSRF-TOKEN' => $this->token, 'Accept' => 'application/json']]);
    }

    /**
     * @param  array<string, mixed>|null  $json
     * @return array{int, mixed} status and what the answer holds
     */
    public function ask(string $method, string $path, ?array $json = null): array
    {
        return $this->heard("$method $path", $this->begin($method, $path, $json === null ? [] : ['json' => $json])->wait());
    }

    /**
     * The same request twice at once.
     *
     * @param  array<string, mixed>  $json
     * @return list<array{int, mixed}>
     */
    public function askTwice(string $method, string $path, array $json): array
    {
        $answers = Utils::unwrap([$this->begin($method, $path, ['json' => $json]), $this->begin($method, $path, ['json' => $json])]);

        return array_map(fn (ResponseInterface $answer) => $this->heard("$method $path", $answer), array_values($answers));
    }

    /** Brings a file in; null when it was refused. */
    public function upload(string $project, string $name, string $bytes): ?string
    {
        // Asked to try again in a minute, while the database restarts or recovers from a full disk, a person does.
        for ($try = 0; $try < 20; $try++) {
            [$status, $id] = $this->uploadOnce($project, $name, $bytes);
            if ($status !== 503) {
                return $id;
            }
            usleep(500_000);
        }

        return null;
    }

    /** @return array{int, string|null} the last status, and the id of the upload if it has arrived */
    private function uploadOnce(string $project, string $name, string $bytes): array
    {
        $headers = ['X-CSRF-TOKEN' => $this->token, 'Accept' => 'application/json'];
        $created = $this->begin('POST', "/projects/$project/uploads", ['headers' => $headers + ['Upload-Length' => (string) strlen($bytes), 'Upload-Metadata' => 'filename '.base64_encode($name)]])->wait();
        $this->heard('upload', $created);
        if ($created->getStatusCode() !== 201) {
            return [$created->getStatusCode(), null];
        }
        $id = basename($created->getHeaderLine('Location'));
        $sent = $this->begin('PATCH', "/projects/$project/uploads/$id", ['headers' => $headers + ['Upload-Offset' => '0', 'Content-Type' => 'application/offset+octet-stream'], 'body' => $bytes])->wait();
        $this->heard('upload', $sent);

        return [$sent->getStatusCode(), $sent->getStatusCode() === 204 ? $id : null];
    }

    /** @return array{int, mixed} */
    private function heard(string $what, ResponseInterface $answer): array
    {
        $status = $answer->getStatusCode();
        $body = (string) $answer->getBody();
        // 503 is nginx's: it says in words that the server cannot just now.
        if ($status === 500 || ($status >= 400 && preg_match(self::INSIDE, $body) === 1) || ($status >= 400 && trim((string) (json_decode($body, true)['message'] ?? '')) === '' && $body !== '')) {
            $this->faults[] = "$what: $status ".substr($body, 0, 300);
        }

        return [$status, json_decode($body, true)];
    }
}
