declare module "*.md?page" {
  const page: import("./nodes").PageText;
  export default page;
}
