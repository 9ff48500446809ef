<?php

declare(strict_types=1);

// Bytes a second that an upload takes, against what the same web server stores with no application behind it:
// php tests/Bench/upload.php VAR URL E-MAIL PASSWORD, with the application running out of the folder VAR.
[, $var, $url, $mail, $password] = $argv;
const PIECE = 112 << 20;
const PIECES = 6;

$curl = curl_init();
$cookies = tempnam(sys_get_temp_dir(), 'jar');
$piece = random_bytes(1 << 20);
$piece = str_repeat($piece, PIECE >> 20);

/**
 * @param  list<string>  $headers
 * @return array{int, string}
 */
$ask = function (string $method, string $to, string $body = '', array $headers = []) use ($curl, $cookies): array {
    curl_reset($curl);
    $token = preg_match('/XSRF-TOKEN\s+(\S+)/', (string) @file_get_contents($cookies), $found) ? urldecode($found[1]) : '';
    curl_setopt_array($curl, [CURLOPT_URL => $to, CURLOPT_CUSTOMREQUEST => $method, CURLOPT_POSTFIELDS => $body, CURLOPT_RETURNTRANSFER => true, CURLOPT_HEADER => true, CURLOPT_COOKIEFILE => $cookies, CURLOPT_COOKIEJAR => $cookies,
        CURLOPT_HTTPHEADER => ['Accept: application/json', 'Expect:', "X-XSRF-TOKEN: $token", ...$headers]]);
    $answer = (string) curl_exec($curl);
    curl_setopt($curl, CURLOPT_COOKIELIST, 'FLUSH');

    return [curl_getinfo($curl, CURLINFO_RESPONSE_CODE), $answer];
};
$ask('GET', "$url/sign-in");
$ask('POST', "$url/sign-in", (string) json_encode(['email' => $mail, 'password' => $password]), ['Content-Type: application/json']);
[, $made] = $ask('POST', "$url/api/projects", '{"name":"Upload","unit":"mm"}', ['Content-Type: application/json']);
$project = json_decode(substr($made, (int) strpos($made, '{"id"')), true)['id'];

// The same web server, keeping every body, in front of a script that only answers.
$work = "$var/web/raw";
mkdir("$work/body", 0777, true);
file_put_contents("$work/answer.php", '<?php http_response_code(204);');
$port = (int) explode(':', (string) stream_socket_get_name(stream_socket_server('tcp://127.0.0.1:0'), false))[1];
$user = posix_geteuid() === 0 ? 'user www-data;' : '';
posix_geteuid() === 0 && chown("$work/body", 'www-data');
file_put_contents("$work/nginx.conf", "$user worker_processes 2; daemon off; pid $work/pid; error_log $work/log crit; events { worker_connections 64; } http { access_log off; client_max_body_size 128m; client_body_temp_path $work/body; server { listen 127.0.0.1:$port; location / { client_body_in_file_only on; client_body_buffer_size 1m; include /etc/nginx/fastcgi_params; fastcgi_param SCRIPT_FILENAME $work/answer.php; fastcgi_param CONTENT_LENGTH 0; fastcgi_pass_request_body off; fastcgi_pass unix:$var/web/fpm.sock; } } }");
$nginx = proc_open([is_executable('/usr/sbin/nginx') ? '/usr/sbin/nginx' : 'nginx', '-e', "$work/log", '-c', "$work/nginx.conf"], [], $pipes);
for ($k = 0; $k < 100 && @fsockopen('127.0.0.1', $port) === false; $k++) {
    usleep(50_000);
}
$clear = function () use ($work, $var): void {
    array_map(unlink(...), [...(glob("$work/body/*") ?: []), ...(glob("$var/storage/uploads/*.part-*") ?: [])]);
    exec('sync');
};
$send = function (callable $one) use ($clear): float {
    $clear();
    $start = microtime(true);
    for ($k = 0; $k < PIECES; $k++) {
        $status = $one($k);
        $status === 204 || exit("answered $status instead of 204\n");
    }

    return microtime(true) - $start;
};
$ratios = $rates = [];
for ($round = 0; $round < 9; $round++) {
    [, $answer] = $ask('POST', "$url/api/projects/$project/uploads", '', ['Upload-Length: '.PIECES * PIECE, 'Upload-Metadata: filename '.base64_encode('a.ply')]);
    preg_match('/^Location: (\S+)/mi', $answer, $where);
    $ours = $send(fn (int $k) => $ask('PATCH', $url.$where[1], $piece, ['Content-Type: application/offset+octet-stream', 'Upload-Offset: '.$k * PIECE])[0]);
    $raw = $send(fn () => $ask('PATCH', "http://127.0.0.1:$port/", $piece, ['Content-Type: application/offset+octet-stream'])[0]);
    $ratios[] = $raw / $ours;
    $rates[] = PIECES * PIECE / 1e6 / $ours;
}
$clear();
$ask('DELETE', "$url/api/projects/$project");
proc_terminate($nginx);
proc_close($nginx);
exec('rm -rf '.escapeshellarg($work));
sort($ratios);
sort($rates);
printf("{\"upload, median of nine\": \"%d pieces of %d MB\", \"MB a second\": %.0f, \"of what the web server alone stores\": %.2f, \"from\": %.2f, \"to\": %.2f}\n", PIECES, PIECE >> 20, $rates[4], $ratios[4], $ratios[0], $ratios[8]);
