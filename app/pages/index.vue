<template>
  <ProjectsView />
</template>
