<template>
  <div class="page">
    <h1>There is nothing here</h1>
    <p class="lead">
      The address leads nowhere, or to something that is not yours to see.
      <RouterLink :to="{ name: 'accounts' }">To the accounts</RouterLink>
    </p>
  </div>
</template>
