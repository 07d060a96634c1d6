<template>
  <main class="container py-5">
    <h1>There is nothing at this address</h1>
    <p>It may have been mistyped, or what stood here is gone. <RouterLink to="/">Go to the queue</RouterLink></p>
  </main>
</template>
