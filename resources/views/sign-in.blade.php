<!doctype html>
<html lang="en" data-theme="kiln">
<head>
  <meta charset="utf-8">
  <meta name="viewport" content="width=device-width, initial-scale=1">
  <title>Sign in · Emberstone</title>
  <link rel="icon" href="/icon.svg" type="image/svg+xml">
  @vite(['resources/css/app.css'])
</head>
<body class="bg-base-300 text-base-content grid min-h-screen place-items-center">
  <main class="w-96 rounded-box bg-base-100 border border-neutral p-8">
    <img src="/icon.svg" alt="" class="h-10 w-10 mb-4">
    <h1 class="text-xl font-semibold">Emberstone</h1>
    <p class="opacity-80 mb-6">Raw scan passes in, a ready mesh out.</p>
    <form method="post" action="/sign-in" class="grid gap-4">
      @csrf
      <label class="grid gap-1 text-sm">E-mail
        <input class="input w-full" type="email" name="email" value="{{ old('email') }}" autocomplete="username" required autofocus>
      </label>
      <label class="grid gap-1 text-sm">Password
        <input class="input w-full" type="password" name="password" autocomplete="current-password" required>
      </label>
      <label class="flex items-center gap-2 text-sm"><input class="checkbox checkbox-sm" type="checkbox" name="remember" value="1"> Keep me signed in on this machine</label>
      @error('email')<p role="alert" class="text-error text-sm">{{ $message }}</p>@enderror
      <button class="btn btn-primary">Sign in</button>
    </form>
  </main>
</body>
</html>
